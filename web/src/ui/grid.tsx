/** A grid that behaves like a sheet for reading: arrow keys, ranges with Shift, copy as a sheet pastes it, sort, filter. */
import {
	type ColumnDef,
	createSortedRowModel,
	type RowData,
	rowSortingFeature,
	sortFns,
	tableFeatures,
	useTable,
} from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";

const features = tableFeatures({ rowSortingFeature, sortedRowModel: createSortedRowModel(), sortFns });

export interface Column<Row> {
	id: string;
	title: string;
	width: number;
	value: (row: Row) => string | number;
	mono?: boolean;
	show?: (row: Row) => React.ReactNode;
}

interface Props<Row> {
	label: string;
	rows: Row[];
	columns: Column<Row>[];
	rowKey: (row: Row) => string;
	chosen?: string;
	onChoose: (row: Row) => void;
	/** Who else is at which row, by its key. */
	others?: ReadonlyMap<string, string>;
	/** Takes a table pasted at a cell: the rows it falls on, the column it begins in, and its cells. */
	onPaste?: (rows: Row[], column: string, cells: string[][]) => void;
}

interface Cell {
	row: number;
	column: number;
}

export function Grid<Row extends RowData>({
	label,
	rows,
	columns,
	rowKey,
	chosen,
	onChoose,
	others,
	onPaste,
}: Props<Row>) {
	const box = useRef<HTMLDivElement>(null);
	const table = useTable({
		features,
		data: rows,
		columns: columns.map(
			(column): ColumnDef<typeof features, Row> => ({
				id: column.id,
				accessorFn: column.value,
				sortFn: "alphanumeric",
			}),
		),
		getRowId: rowKey,
	});
	const sorted = table.getRowModel().rows;
	const virtual = useVirtualizer({
		count: sorted.length,
		getScrollElement: () => box.current,
		estimateSize: () => 24,
		overscan: 20,
		scrollPaddingStart: 8,
		scrollPaddingEnd: 40,
	});
	const [cell, setCell] = useState<Cell>({ row: -1, column: 0 });
	const [anchor, setAnchor] = useState<Cell>(cell);
	const template = columns.map((column) => `minmax(${column.width}px, ${column.width}fr)`).join(" ");
	const wide = columns.reduce((sum, column) => sum + column.width, 0);

	const height = virtual.scrollRect?.height ?? 0;
	const found = sorted.findIndex((row) => row.id === chosen);
	useEffect(() => {
		if (found < 0 || height === 0) return;
		setCell((now) => (now.row === found ? now : { row: found, column: now.column }));
		setAnchor((now) => (now.row === found ? now : { row: found, column: now.column }));
		virtual.scrollToIndex(found, { align: "auto" });
		// Its height settles after what stands above it; what is chosen must be in view then too.
	}, [found, virtual, height]);

	const goTo = (next: Cell, extend: boolean) => {
		const to = {
			row: Math.max(0, Math.min(sorted.length - 1, next.row)),
			column: Math.max(0, Math.min(columns.length - 1, next.column)),
		};
		setCell(to);
		if (!extend) setAnchor(to);
		virtual.scrollToIndex(to.row, { align: "auto" });
		const row = sorted[to.row];
		if (row && !extend) onChoose(row.original);
	};

	const within = (row: number, column: number) =>
		between(row, anchor.row, cell.row) &&
		between(column, anchor.column, cell.column) &&
		(anchor.row !== cell.row || anchor.column !== cell.column);

	const onKeyDown = (event: React.KeyboardEvent) => {
		const page = Math.max(1, Math.floor((box.current?.clientHeight ?? 480) / 24) - 2);
		const steps: Record<string, [number, number]> = {
			ArrowDown: [1, 0],
			ArrowUp: [-1, 0],
			ArrowRight: [0, 1],
			ArrowLeft: [0, -1],
			PageDown: [page, 0],
			PageUp: [-page, 0],
			Home: [-sorted.length, 0],
			End: [sorted.length, 0],
		};
		const step = steps[event.key];
		if (step) {
			event.preventDefault();
			goTo({ row: cell.row + step[0], column: cell.column + step[1] }, event.shiftKey);
		}
	};

	const onCopy = (event: React.ClipboardEvent) => {
		const text = sorted
			.slice(Math.min(anchor.row, cell.row), Math.max(anchor.row, cell.row) + 1)
			.map((row) =>
				columns
					.slice(Math.min(anchor.column, cell.column), Math.max(anchor.column, cell.column) + 1)
					.map((column) => column.value(row.original))
					.join("\t"),
			)
			.join("\n");
		event.clipboardData.setData("text/plain", text);
		event.preventDefault();
	};

	const paste = (event: React.ClipboardEvent) => {
		const pasted = event.clipboardData
			.getData("text/plain")
			.replace(/\r?\n$/, "")
			.split(/\r?\n/)
			.map((line) => line.split("\t"));
		const first = Math.min(anchor.row, cell.row);
		// One row over a range of several fills it, as in a sheet.
		const range = Math.abs(anchor.row - cell.row) + 1;
		const only = pasted.length === 1 ? pasted[0] : undefined;
		const cells = only ? Array.from({ length: range }, () => only) : pasted;
		const column = columns[Math.min(anchor.column, cell.column)];
		if (!onPaste || first < 0 || !column) return;
		event.preventDefault();
		onPaste(
			sorted.slice(first, first + cells.length).map((row) => row.original),
			column.id,
			cells,
		);
	};

	return (
		// biome-ignore lint/a11y/useSemanticElements: a virtual grid has rows that a table element could not have
		<div
			ref={box}
			role="grid"
			aria-label={label}
			aria-rowcount={sorted.length + 1}
			tabIndex={0}
			className="min-h-0 flex-1 overflow-auto"
			onKeyDown={onKeyDown}
			onCopy={onCopy}
			onPaste={onPaste && paste}
		>
			<div style={{ minWidth: wide }}>
				{/* biome-ignore lint/a11y/useSemanticElements: see the grid */}
				{/* biome-ignore lint/a11y/useFocusableInteractive: the grid has the focus */}
				<div
					role="row"
					className="sticky top-0 z-10 grid border-b border-hair bg-paper"
					style={{ gridTemplateColumns: template }}
				>
					{table.getHeaderGroups()[0]?.headers.map((header, index) => (
						// biome-ignore lint/a11y/useSemanticElements: see the grid
						// biome-ignore lint/a11y/useFocusableInteractive: its button has the focus
						<div key={header.id} role="columnheader" aria-sort={ARIA[String(header.column.getIsSorted())]}>
							<button
								type="button"
								tabIndex={-1}
								className="w-full truncate px-2 py-1.5 text-left text-[11.5px] text-soft hover:text-indigo"
								onClick={header.column.getToggleSortingHandler()}
							>
								{columns[index]?.title} {MARK[String(header.column.getIsSorted())]}
							</button>
						</div>
					))}
				</div>
				<div className="relative" style={{ height: virtual.getTotalSize() }}>
					{virtual.getVirtualItems().map((item) => {
						const row = sorted[item.index];
						if (!row) return null;
						const on = row.id === chosen;
						const other = others?.get(row.id);
						return (
							// biome-ignore lint/a11y/useSemanticElements: see the grid
							// biome-ignore lint/a11y/useFocusableInteractive: the grid has the focus
							<div
								key={row.id}
								role="row"
								aria-rowindex={item.index + 2}
								aria-selected={on}
								title={other && `${other} is at this row`}
								style={{ transform: `translateY(${item.start}px)`, gridTemplateColumns: template }}
								className={`absolute top-0 left-0 grid h-6 w-full items-center border-b border-hair/50 ${on ? "bg-chosen" : "hover:bg-raised"} ${other ? "shadow-[inset_4px_0_var(--weld)]" : ""}`}
							>
								{columns.map((column, index) => (
									// biome-ignore lint/a11y/useSemanticElements: see the grid
									// biome-ignore lint/a11y/useFocusableInteractive: the grid has the focus
									// biome-ignore lint/a11y/useKeyWithClickEvents: the grid takes the keys
									<div
										key={column.id}
										role="gridcell"
										onClick={(event) => {
											box.current?.focus();
											goTo({ row: item.index, column: index }, event.shiftKey);
										}}
										className={`truncate px-2 leading-6 ${column.mono ? "mono" : ""} ${within(item.index, index) ? "bg-indigo-line/50" : ""} ${item.index === cell.row && index === cell.column ? "outline-2 -outline-offset-2 outline-indigo" : ""}`}
									>
										{column.show ? column.show(row.original) : column.value(row.original)}
									</div>
								))}
							</div>
						);
					})}
				</div>
			</div>
		</div>
	);
}

const MARK: Record<string, string> = { asc: "↑", desc: "↓", false: "" };
const ARIA: Record<string, "ascending" | "descending" | "none"> = {
	asc: "ascending",
	desc: "descending",
	false: "none",
};
const between = (value: number, one: number, two: number) =>
	value >= Math.min(one, two) && value <= Math.max(one, two);
