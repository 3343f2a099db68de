/** A row of the grid, and a cell of it: drawn anew only when what they show is another, so that scrolling draws what came into view. */
import { memo, type ReactNode } from "react";
import { BEFORE, FIRST, markOf, type Place } from "./cells";
import { MarkShape } from "./marks";
import { Before, Box, edgeOf, SEGMENT, STARTS, WIDTHS } from "./parts";
import type { Column, Row } from "./queries";

export const HEIGHT = 24;

interface LineProps {
	index: number;
	start: number;
	row: Row | undefined;
	columns: Column[];
	/** The segments in view. */
	seen: { index: number; start: number; key: React.Key }[];
	/** The columns that are chosen here, from the first to the last; none when the first is after the last. */
	left: number;
	right: number;
	/** The column of the one cell that is chosen, when it is in this row. */
	focus: number | null;
	/** Who else is at this row. */
	other: string | undefined;
	/** What stands in the chosen cell in place of its words. */
	naming: ReactNode;
	onGo: (place: Place, extend: boolean) => void;
}

export const Line = memo(function Line({
	index,
	start,
	row,
	columns,
	seen,
	left,
	right,
	focus,
	other,
	naming,
	onGo,
}: LineProps) {
	const chosen = focus !== null;
	return (
		// biome-ignore lint/a11y/useSemanticElements: see the grid
		// biome-ignore lint/a11y/useFocusableInteractive: the grid has the focus
		<div
			role="row"
			aria-rowindex={index + 2}
			aria-selected={chosen}
			title={other && `${other} is at this row`}
			style={{ transform: `translateY(${start}px)`, height: HEIGHT }}
			className={`absolute top-0 left-0 w-full border-b border-hair/50 ${chosen ? "bg-chosen" : ""} ${other ? "shadow-[inset_4px_0_var(--weld)]" : ""}`}
		>
			{row && (
				<>
					{BEFORE.map((name, column) => (
						<Box
							key={name}
							x={STARTS[column] ?? 0}
							width={WIDTHS[column] ?? 0}
							sticky={chosen ? "bg-chosen" : "bg-paper"}
							within={left <= column && column <= right}
							focus={column === focus}
							onGo={(extend) => onGo({ row: index, column }, extend)}
						>
							{naming && column === focus ? naming : <Before row={row} name={name} />}
						</Box>
					))}
					{seen.map((item) => (
						<SegmentCell
							key={item.key}
							index={index}
							at={item.index}
							x={item.start}
							row={row}
							columns={columns}
							within={left <= item.index + FIRST && item.index + FIRST <= right}
							focus={item.index + FIRST === focus}
							onGo={onGo}
						/>
					))}
				</>
			)}
		</div>
	);
});

interface CellProps {
	index: number;
	/** Which of the segments. */
	at: number;
	x: number;
	row: Row;
	columns: Column[];
	within: boolean;
	focus: boolean;
	onGo: LineProps["onGo"];
}

const SegmentCell = memo(function SegmentCell({
	index,
	at,
	x,
	row,
	columns,
	within,
	focus,
	onGo,
}: CellProps) {
	const mark = markOf(row, at);
	return (
		<Box
			x={x}
			width={SEGMENT}
			within={within}
			focus={focus}
			onGo={(extend) => onGo({ row: index, column: at + FIRST }, extend)}
			label={`${columns[at]?.name}: ${mark || (row.locked ? row.locked : "not here")}`}
			edge={edgeOf(columns, at)}
		>
			{row.locked ? (
				<span className="hatched block h-2.5 w-8 opacity-60" />
			) : (
				<MarkShape mark={mark} paused={columns[at]?.state !== "active"} />
			)}
		</Box>
	);
});
