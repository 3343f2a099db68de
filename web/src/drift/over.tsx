/** The ways to take a drifted line over: what the draft would say, and whom else that touches. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Fabric, type Failure, got } from "../api/client";
import { useNotices } from "../ui/notices";
import { counted } from "../ui/words";
import { asOne, type DriftLine } from "./queries";

interface Props {
	fabric: Fabric;
	name: string;
	line: DriftLine;
	onDone: () => void;
}

export function TakeOver({ fabric, name, line, onDone }: Props) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	const path = { name: fabric.name, switch: name };
	const of = { path: line.path, line: asOne(line) };
	const { data, error } = useQuery({
		queryKey: ["fabric", fabric.name, "ways", name, of.path, of.line],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/drift/{switch}/ways", {
					params: { path, query: of },
				}),
			),
		retry: false,
		staleTime: 0,
	});
	const over = useMutation<unknown, Failure, string>({
		mutationFn: (key) =>
			got(
				client.POST("/api/v1/fabrics/{name}/drift/{switch}/over", {
					params: { path },
					body: { ...of, key },
				}),
			),
		onSuccess: () => {
			tell({ tone: "done", text: "The draft says so. It is drift until an edition says it too." });
			void queries.invalidateQueries({ queryKey: ["fabric", fabric.name] });
			onDone();
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
	});
	if (error) return <p className="mt-1 text-madder">{error.message}</p>;
	if (!data) return <p className="mt-1 text-soft">Words of the brief are tried…</p>;
	if (data.said)
		return <p className="mt-1 text-soft">The draft says so already; it is drift until an edition does.</p>;
	if (!data.ways.length)
		return (
			<p className="mt-1 text-soft">
				No word, setting or addition means this line. Put it back, or leave it with a reason.
			</p>
		);
	return (
		<ul aria-label="Ways to take it over" className="mt-1">
			{data.ways.map((way) => (
				<li key={way.key} className="border-t border-hair/60 py-1.5">
					<p className="leading-snug">{way.title}</p>
					<p className="text-[12px] text-soft">
						{way.others
							? `${counted(way.others, "other switch gets", "other switches get")} other files too`
							: "no other switch is touched"}
					</p>
					<button
						type="button"
						className="button-plain"
						disabled={over.isPending}
						onClick={() => over.mutate(way.key)}
					>
						Let the draft say so
					</button>
				</li>
			))}
		</ul>
	);
}
