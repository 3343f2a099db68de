/** A file beside another: the twin's, any switch's, or its own before the last change. What is each switch's own is dim. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import { client, got, type SwitchRow } from "../api/client";
import type { components } from "../api/schema";
import { useOpenFabric } from "../app/open";
import { counted } from "../ui/words";

type Line = components["schemas"]["ComparedLine"];

/** Those that a switch is best held against: the others of its rack, then those of its role. */
export function peers(current: SwitchRow, switches: readonly SwitchRow[]): SwitchRow[] {
	const near = (one: SwitchRow) =>
		one.rack === current.rack && one.role === current.role ? 0 : one.role === current.role ? 1 : 2;
	return switches.filter((one) => one.key !== current.key).sort((one, other) => near(one) - near(other));
}

export function Beside({ target, file, beside }: { target: string; file: string; beside: string }) {
	const fabric = useOpenFabric();
	const { data, error } = useQuery({
		queryKey: ["fabric", fabric.name, "beside", fabric.version, target, file, beside],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/switches/{switch}/compare", {
					params: { path: { name: fabric.name, switch: target }, query: { path: file, beside } },
				}),
			),
		placeholderData: keepPreviousData,
	});
	if (error) return <p className="flex-1 p-5 text-madder">{error.message}</p>;
	if (!data) return <p className="flex-1 p-5 text-soft">Both are read…</p>;
	const real = data.lines.filter((one) => !["same", "own"].includes(one.kind)).length;
	const own = data.lines.filter((one) => one.kind === "own").length;
	const other = beside === "before" ? "before the last change" : beside;
	return (
		<section aria-label="Beside each other" className="min-h-0 flex-1 overflow-auto pb-4">
			<p className="px-5 py-2 text-soft">
				{real ? (
					<b className="text-ink">{counted(real, "line really differs", "lines really differ")}</b>
				) : (
					"Nothing really differs"
				)}
				{own > 0 && `; ${counted(own, "line differs", "lines differ")} in what is each switch’s own, and dim`}
				.
			</p>
			<div className="grid grid-cols-2 font-mono text-[12.2px] leading-[19px]">
				<b className="border-b border-hair px-5 pb-1 font-sans">{target}</b>
				<b className="border-b border-hair px-5 pb-1 font-sans">{other}</b>
				{folded(data.lines).map((part) =>
					part.length > 1 && part[0]?.kind === "same" ? (
						<Folded key={`${part[0].here}`} lines={part} />
					) : (
						part.map((one) => <Row key={`${one.here} ${one.there}`} line={one} />)
					),
				)}
			</div>
		</section>
	);
}

const AROUND = 2;

/** Long runs of lines that are alike become one part each, but for those right beside a difference. */
export function folded(lines: readonly Line[]): Line[][] {
	const near = new Set<number>();
	lines.forEach((one, at) => {
		if (one.kind !== "same") for (let by = -AROUND; by <= AROUND; by++) near.add(at + by);
	});
	const parts: Line[][] = [];
	let open: Line[] | null = null;
	lines.forEach((one, at) => {
		if (near.has(at)) {
			parts.push([one]);
			open = null;
		} else if (open) open.push(one);
		else {
			open = [one];
			parts.push(open);
		}
	});
	return parts;
}

function Folded({ lines }: { lines: Line[] }) {
	const [open, setOpen] = useState(false);
	if (open) return lines.map((one) => <Row key={one.here} line={one} />);
	return (
		<button
			type="button"
			className="col-span-2 px-5 py-0.5 text-left font-sans text-[11.5px] text-soft hover:text-indigo"
			onClick={() => setOpen(true)}
		>
			{counted(lines.length, "line")} alike
		</button>
	);
}

const LOOK: Record<Line["kind"], string> = {
	same: "",
	own: "text-faint",
	other: "bg-wash font-bold",
	here: "bg-wash",
	there: "bg-wash",
};

function Row({ line }: { line: Line }) {
	const look = LOOK[line.kind];
	return (
		<Fragment>
			<Side number={line.here} text={line.text} look={line.kind === "there" ? "" : look} />
			<Side number={line.there} text={line.beside} look={line.kind === "here" ? "" : look} />
		</Fragment>
	);
}

function Side({ number, text, look }: { number: number; text: string; look: string }) {
	return (
		<span className={`flex min-w-0 ${look}`}>
			<span className="w-[46px] flex-none pr-3.5 text-right text-faint">{number || ""}</span>
			<span className="min-w-0 truncate whitespace-pre" title={text}>
				{text}
			</span>
		</span>
	);
}
