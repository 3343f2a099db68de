/** What else the open state can be held against: another fabric, or a bundle from elsewhere. */
import { useMutation } from "@tanstack/react-query";
import { client, type Fabric, type Failure, got } from "../api/client";
import { useFabrics } from "../api/queries";
import { useNotices } from "../ui/notices";

interface Props {
	fabric: Fabric;
	chosen: string;
	onChoose: (side: string) => void;
}

export function Elsewhere({ fabric, chosen, onChoose }: Props) {
	const others = (useFabrics().data ?? []).filter((one) => one.name !== fabric.name);
	const { tell } = useNotices();
	const bring = useMutation<{ side: string }, Failure, File>({
		mutationFn: (file) =>
			got(
				client.POST("/api/v1/fabrics/{name}/apart/brought", {
					params: { path: { name: fabric.name }, query: { called: file.name } },
					body: file as never,
					bodySerializer: (body: unknown) => body as Blob,
					headers: { "Content-Type": "application/octet-stream" },
				}),
			),
		onSuccess: ({ side }) => onChoose(side),
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
	});
	return (
		<div className="mt-4 border-t border-hair pt-3">
			<label className="label-small block">
				Hold against
				<select
					className="field mt-1 h-7 w-full py-0 text-ink"
					value={others.some((one) => chosen === `fabric ${one.name}`) ? chosen : ""}
					onChange={(event) => onChoose(event.target.value)}
				>
					<option value="">an edition</option>
					{others.map((one) => (
						<option key={one.name} value={`fabric ${one.name}`}>
							fabric {one.name}
						</option>
					))}
				</select>
			</label>
			<label className="button-plain mt-1 block cursor-pointer text-[12.5px]">
				{bring.isPending ? "It is read…" : "or a bundle from elsewhere"}
				<input
					type="file"
					accept=".zip,.gz,.tgz"
					className="sr-only"
					onChange={(event) => {
						const file = event.target.files?.[0];
						if (file) bring.mutate(file);
						event.target.value = "";
					}}
				/>
			</label>
			{chosen.startsWith("brought") && (
				<button type="button" className="button-plain text-[12.5px]" onClick={() => onChoose("")}>
					back to the editions
				</button>
			)}
		</div>
	);
}
