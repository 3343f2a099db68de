/** What the grid is drawn of: its head, a cell, what stands before the segments, and the line in which a host is named. */
import { Fragment, memo, type ReactNode, useState } from "react";
import { BEFORE } from "./cells";
import type { Column, Row } from "./queries";

/** Widths of the columns before the segments, and of one segment. */
export const WIDTHS = [112, 128, 106, 96];
export const LEFT = WIDTHS.reduce((sum, width) => sum + width, 0);
export const SEGMENT = 82;
/** Where each column before the segments begins. */
export const STARTS = WIDTHS.map((_, at) => WIDTHS.slice(0, at).reduce((sum, width) => sum + width, 0));

/** A column where another VRF begins has a thread before it. */
export const edgeOf = (columns: Column[], at: number): string =>
	at === 0 || columns[at]?.vrf !== columns[at - 1]?.vrf ? "border-l border-hair" : "";

export const Head = memo(function Head({
	columns,
	seen,
}: {
	columns: Column[];
	seen: { index: number; start: number; key: React.Key }[];
}) {
	return (
		// biome-ignore lint/a11y/useSemanticElements: see the grid
		// biome-ignore lint/a11y/useFocusableInteractive: the grid has the focus
		<div role="row" className="sticky top-0 z-20 h-[56px] border-b border-hair bg-paper">
			{BEFORE.map((name, column) => (
				// biome-ignore lint/a11y/useSemanticElements: see the grid
				// biome-ignore lint/a11y/useFocusableInteractive: the grid has the focus
				<div
					key={name}
					role="columnheader"
					className="sticky z-10 float-left h-full bg-paper px-2 pt-[34px] text-[11.5px] text-soft"
					style={{
						left: STARTS[column],
						width: WIDTHS[column],
					}}
				>
					{name}
				</div>
			))}
			{seen.map((item) => {
				const column = columns[item.index];
				if (!column) return null;
				const begins = edgeOf(columns, item.index);
				return (
					<Fragment key={item.key}>
						{/* biome-ignore lint/a11y/useSemanticElements: see the grid */}
						{/* biome-ignore lint/a11y/useFocusableInteractive: the grid has the focus */}
						<div
							role="columnheader"
							title={`${column.name}: VLAN ${column.vlan ?? "of each rack"}, VNI ${column.vni}, on ${column.seats} ports${column.state === "active" ? "" : `, ${column.state}`}`}
							className={`absolute top-0 h-full px-1.5 pt-0.5 ${begins}`}
							style={{ left: item.start, width: SEGMENT }}
						>
							<b className="block h-[17px] truncate text-[12px]">{begins && (column.vrf || "not routed")}</b>
							<span className="block truncate text-[11.5px]">{column.name}</span>
							<span className="block truncate text-[11px] text-soft">
								<span className="mono">{column.vlan ?? "by rack"}</span>{" "}
								{column.state === "active" ? `on ${column.hosts}` : column.state}
							</span>
						</div>
					</Fragment>
				);
			})}
		</div>
	);
});

interface BoxProps {
	x: number;
	width: number;
	sticky?: string;
	within: boolean;
	focus: boolean;
	label?: string;
	edge?: string;
	onGo: (extend: boolean) => void;
	children: ReactNode;
}

export function Box({ x, width, sticky, within, focus, label, edge = "", onGo, children }: BoxProps) {
	return (
		// biome-ignore lint/a11y/useSemanticElements: see the grid
		// biome-ignore lint/a11y/useFocusableInteractive: the grid has the focus
		// biome-ignore lint/a11y/useKeyWithClickEvents: the grid takes the keys
		<div
			role="gridcell"
			onClick={(event) => {
				(event.currentTarget.closest("[role=grid]") as HTMLElement | null)?.focus();
				onGo(event.shiftKey);
			}}
			className={`flex h-full items-center truncate px-2 ${sticky ? `sticky z-10 float-left ${sticky}` : `absolute top-0 ${edge}`} ${within ? "bg-indigo-line/50" : ""} ${focus ? "outline-2 -outline-offset-2 outline-indigo" : ""}`}
			style={{ left: x, width }}
		>
			{label && <span className="sr-only">{label}</span>}
			{children}
		</div>
	);
}

export function Before({ row, name }: { row: Row; name: (typeof BEFORE)[number] }) {
	if (name === "port")
		return (
			<span className="mono truncate" title={`${row.leaf} ${row.ports}`}>
				<span className="text-soft">{row.leaf.replace(/^(leaf|border)-/, "")}</span>{" "}
				{row.ports.replace("..", "–")}
			</span>
		);
	if (name === "host") {
		if (row.locked) return <span className="truncate text-soft">{row.locked}</span>;
		if (row.host) return <span className="mono truncate">{row.host}</span>;
		return <span className="truncate text-soft">{row.shut ? "free, shut" : `free, ${row.plug}`}</span>;
	}
	if (name === "team") return <span className="truncate text-soft">{row.team}</span>;
	return (
		<span className="truncate text-indigo">
			{row.host && [row.plug, row.lag !== "none" && "LAG"].filter(Boolean).join(", ")}
		</span>
	);
}

export const LABELS: Record<(typeof BEFORE)[number], string> = {
	port: "Port",
	host: "Name of the host",
	team: "Team",
	plug: "Plug",
};

interface NamingProps {
	start: string;
	label: string;
	options: string[];
	onDone: (said: string | null) => void;
}

export function Naming({ start, label, options, onDone }: NamingProps) {
	const [names, setNames] = useState(start);
	return (
		<>
			<input
				// biome-ignore lint/a11y/noAutofocus: it is opened to be written in
				autoFocus
				aria-label={label}
				list="known-here"
				className="mono h-[20px] w-full bg-raised px-1 outline-1 outline-indigo"
				value={names}
				placeholder={options.length ? "" : "tide-01..tide-04"}
				spellCheck={false}
				onChange={(event) => setNames(event.target.value)}
				onBlur={() => onDone(null)}
				onKeyDown={(event) => {
					event.stopPropagation();
					if (event.key === "Enter") onDone(names.trim());
					if (event.key === "Escape") onDone(null);
				}}
			/>
			<datalist id="known-here">
				{options.map((one) => (
					<option key={one} value={one} />
				))}
			</datalist>
		</>
	);
}
