/** Lines of all files at once: what was found, who carries it, and the way there. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, got } from "../api/client";
import { useOpenFabric } from "../app/open";
import { counted } from "../ui/words";

export function FoundLines({ words }: { words: string }) {
	const fabric = useOpenFabric();
	const { data, error, isFetching } = useQuery({
		queryKey: ["fabric", fabric.name, "lines", fabric.version, words],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/lines", {
					params: { path: { name: fabric.name }, query: { words } },
				}),
			),
		placeholderData: keepPreviousData,
	});
	if (error) return <p className="p-5 text-madder">{error.message}</p>;
	if (!data) return <p className="p-5 text-soft">{isFetching && "All files are looked through…"}</p>;
	const shown = data.lines.length;
	return (
		<div className="min-h-0 flex-1 overflow-auto px-5 py-3">
			<p className="mb-2 text-soft">
				{data.total === 0
					? `No line of any file has “${words}”.`
					: `${counted(data.total, "line")}${shown < data.total ? `, of which ${shown} are shown` : ""}; lines that are alike are one.`}
			</p>
			<ul aria-label="Lines that were found">
				{data.lines.map((line) => (
					<li key={`${line.path} ${line.text}`} className="border-b border-hair/60 py-1.5">
						<Link
							className="mono block text-[12.5px] break-words hover:text-indigo"
							to={`/f/${fabric.name}/configs/${line.switches[0]}?file=${encodeURIComponent(line.path)}&line=${line.number}`}
						>
							<Marked text={line.text} words={words} />
						</Link>
						<small className="text-[11.5px] text-soft">
							<span className="mono">{line.path}</span> on{" "}
							{counted(line.switches.length, "switch", "switches")}: {line.switches.slice(0, 6).join(", ")}
							{line.switches.length > 6 && ` and ${line.switches.length - 6} more`}
						</small>
					</li>
				))}
			</ul>
		</div>
	);
}

/** A text with the words marked where they stand first. */
function Marked({ text, words }: { text: string; words: string }) {
	if (words.length > 2 && words.startsWith("/") && words.endsWith("/")) return text;
	const fold = words === words.toLowerCase();
	const at = (fold ? text.toLowerCase() : text).indexOf(words);
	if (at < 0) return text;
	return (
		<>
			{text.slice(0, at)}
			<mark className="bg-chosen text-indigo">{text.slice(at, at + words.length)}</mark>
			{text.slice(at + words.length)}
		</>
	);
}
