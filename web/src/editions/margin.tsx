/** The margin of an edition: who asked, agreed and sealed, and what can be done with it. */
import { useMutation } from "@tanstack/react-query";
import { client, type Fabric, type Failure, got } from "../api/client";
import { useMay } from "../api/session";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { clock, counted, day } from "../ui/words";
import { type Edition, useAct } from "./queries";

export function EditionMargin({
	fabric,
	edition,
	newest,
}: {
	fabric: Fabric;
	edition: Edition;
	newest: boolean;
}) {
	const act = useAct(fabric);
	const mayEdit = useMay("edit", fabric.name);
	const at = `/api/v1/fabrics/${fabric.name}/editions/${edition.number}`;
	return (
		<Margin width={286}>
			<MarginHead kind={`edition ${edition.number}`} title={edition.title} />
			<Facts
				rows={[
					["asked by", edition.asked_by || "nobody"],
					["agreed", edition.agreed.map((one) => one.who).join(", ") || "nobody had to"],
					["sealed by", edition.sealed_by || "Barrio itself"],
					["on", `${day(edition.sealed_at)}, ${clock(edition.sealed_at)}`],
					["version", String(edition.version)],
					...(edition.despite ? [["in spite of", edition.despite] as [string, string]] : []),
					["findings", edition.findings.length ? counted(edition.findings.length, "finding") : "none"],
				]}
			/>
			<p className="flex flex-wrap gap-x-4">
				<a className="button-plain" href={`${at}/bundle.zip`} download>
					Files (ZIP)
				</a>
				<a className="button-plain" href={`${at}/bundle.tar.gz`} download>
					Files (tar)
				</a>
				<a
					className="button-plain"
					href={`${at}/record.json`}
					download={`${fabric.name}-edition-${edition.number}.json`}
				>
					How it came about
				</a>
			</p>
			<Again fabric={fabric} edition={edition} />
			{mayEdit && (
				<>
					<div className="label-small mt-4">The way back</div>
					<p className="mt-1 mb-1 text-soft">
						{newest
							? "What the draft changed since is given up, and what it held is given back."
							: "Its brief becomes the draft. Numbers that it had come back where nobody else has them since; you see the ripple before anybody agrees."}
					</p>
					<button
						type="button"
						className="button-plain"
						disabled={act.isPending}
						onClick={() =>
							act.mutate(newest ? { kind: "discard" } : { kind: "back", number: edition.number })
						}
					>
						{newest ? "Discard the draft" : `Go back to edition ${edition.number}`}
					</button>
				</>
			)}
		</Margin>
	);
}

function Again({ fabric, edition }: { fabric: Fabric; edition: Edition }) {
	const again = useMutation<{ files: number; other: string[]; refusal: string; cause: string }, Failure>({
		mutationFn: () =>
			got(
				client.POST("/api/v1/fabrics/{name}/editions/{number}/again", {
					params: { path: { name: fabric.name, number: edition.number } },
				}),
			),
	});
	const { data } = again;
	return (
		<>
			<div className="label-small mt-4">The same today?</div>
			{data ? (
				<p className="mt-1">
					{data.refusal ? (
						<span className="text-madder">
							It does not compile any more: {data.refusal} {data.cause}
						</span>
					) : data.other.length ? (
						<span className="text-madder">
							{counted(data.other.length, "file comes", "files come")} out otherwise ({data.other[0]}…):{" "}
							{data.cause}.
						</span>
					) : (
						`Compiled anew just now: all ${data.files} files are the same, byte for byte.`
					)}
				</p>
			) : (
				<button
					type="button"
					className="button-plain"
					disabled={again.isPending}
					onClick={() => again.mutate()}
				>
					{again.isPending ? "It is compiled…" : "Compile it anew"}
				</button>
			)}
			{again.error && <p className="text-madder">{again.error.message}</p>}
		</>
	);
}
