/** Where some words stand in what switches hold: now, and before. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, type Fabric, got } from "../api/client";
import { clock, day } from "../ui/words";

interface Props {
	fabric: Fabric;
	words: string;
	onShow: (name: string, kind: string) => void;
}

export function Found({ fabric, words, onShow }: Props) {
	const { data, error } = useQuery({
		queryKey: ["fabric", fabric.name, "staging", "find", words],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/tables", {
					params: { path: { name: fabric.name }, query: { words } },
				}),
			),
		placeholderData: keepPreviousData,
	});
	if (error) return <p className="mt-3 text-madder">{error.message}</p>;
	if (!data) return null;
	return (
		<>
			<p className="mt-4 text-soft" aria-live="polite">
				{data.there.length ? (
					"Now"
				) : (
					<>
						<span className="mono">{words}</span> stands nowhere now.
					</>
				)}
			</p>
			<ul aria-label="Now" className="mt-1">
				{data.there.slice(0, 100).map((one) => (
					<li
						key={`${one.switch} ${one.kind} ${one.key}`}
						className="grid grid-cols-[110px_150px_1fr_auto] gap-x-3 border-b border-hair/60 py-1 text-[12.5px] max-sm:grid-cols-1"
					>
						<button
							type="button"
							className="mono text-left font-bold hover:text-indigo"
							onClick={() => onShow(one.switch, one.kind)}
						>
							{one.switch}
						</button>
						<span className="text-soft">{one.table}</span>
						<span className="mono min-w-0 break-words">
							{one.key} <span className="text-soft">→</span> {one.words}
						</span>
						<span className="text-soft">
							since {day(one.since)}, {clock(one.since)}
						</span>
					</li>
				))}
			</ul>
			{data.there.length > 100 && <p className="mt-2 text-soft">And more; say more of it.</p>}
			{data.past.length > 0 && (
				<>
					<p className="mt-4 text-soft">Before</p>
					<ol aria-label="Before" className="mt-1">
						{data.past.slice(0, 100).map((one) => (
							<li
								key={`${one.at} ${one.switch} ${one.kind} ${one.key}`}
								className="grid grid-cols-[110px_150px_1fr] gap-x-3 border-b border-hair/60 py-1 text-[12.5px] max-sm:grid-cols-1"
							>
								<span className="text-soft">
									{day(one.at)}, {clock(one.at)}
								</span>
								<span className="mono">{one.switch}</span>
								<span className="mono min-w-0 break-words">
									{one.key} {one.was && <s className="text-soft">{one.was}</s>}{" "}
									{one.now || <i className="text-soft">gone</i>}
								</span>
							</li>
						))}
					</ol>
				</>
			)}
		</>
	);
}
