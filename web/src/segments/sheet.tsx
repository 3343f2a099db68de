/** The grid: ports against segments, as a good sheet behaves. Both ways only what is in view is drawn. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useEffect, useRef, useState } from "react";
import { useNotices } from "../ui/notices";
import {
	BEFORE,
	type Cell,
	changing,
	FIRST,
	filled,
	marked,
	type Place,
	pasted,
	rangeOf,
	textOf,
} from "./cells";
import { HEIGHT, Line } from "./line";
import { Head, LABELS, LEFT, Naming, SEGMENT } from "./parts";
import type { Column, Mark, Row } from "./queries";

interface Props {
	columns: Column[];
	total: number;
	row: (at: number) => Row | undefined;
	/** The cell that is chosen, and the one from which a range reaches to it. */
	at: Place;
	anchor: Place;
	others: ReadonlyMap<string, string>;
	mayEdit: boolean;
	onChoose: (at: Place, anchor: Place) => void;
	onFill: (cells: Cell[]) => void;
	onAttach: (rows: string[], names: string) => void;
	onDetach: (hosts: string[]) => void;
	/** Another plug or team for hosts. */
	onDress: (hosts: string[], field: "plug" | "team", value: string) => void;
	/** What there is to choose from, for the plug and the team. */
	known: Record<"plug" | "team", string[]>;
	onSeen: (first: number, last: number) => void;
}

export function Sheet({ columns, total, row, at, anchor, others, mayEdit, known, ...on }: Props) {
	const box = useRef<HTMLDivElement>(null);
	const [naming, setNaming] = useState<string | null>(null);
	const { tell } = useNotices();
	const down = useVirtualizer({
		count: total,
		getScrollElement: () => box.current,
		estimateSize: () => HEIGHT,
		overscan: 12,
		scrollPaddingStart: 58,
		scrollPaddingEnd: 30,
	});
	const across = useVirtualizer({
		count: columns.length,
		horizontal: true,
		getScrollElement: () => box.current,
		estimateSize: () => SEGMENT,
		overscan: 4,
		paddingStart: LEFT,
		scrollPaddingStart: LEFT,
	});
	const seen = down.getVirtualItems();
	const first = seen[0]?.index ?? 0;
	const last = seen.at(-1)?.index ?? 0;
	const { onSeen } = on;
	const range = rangeOf(anchor, at);
	const { top, bottom } = range;
	// What a fill is about has to be at hand, also where it reaches out of sight.
	useEffect(() => onSeen(Math.min(first, top), Math.max(last, bottom)), [first, last, top, bottom, onSeen]);

	const go = (place: Place, extend = false) => {
		const to = {
			row: Math.max(0, Math.min(total - 1, place.row)),
			column: Math.max(0, Math.min(columns.length + FIRST - 1, place.column)),
		};
		on.onChoose(to, extend ? anchor : to);
		down.scrollToIndex(to.row, { align: "auto" });
		if (to.column >= FIRST) across.scrollToIndex(to.column - FIRST, { align: "auto" });
	};

	// Rows are drawn anew when what they are given is another: this stays the same.
	const latest = useRef(go);
	useEffect(() => {
		latest.current = go;
	});
	const onGo = useCallback((place: Place, extend: boolean) => latest.current(place, extend), []);

	const fill = (cells: Cell[]) => {
		const byKey = new Map<string, Row>();
		for (let index = range.top; index <= range.bottom; index++) {
			const here = row(index);
			if (!here) {
				tell({
					tone: "wrong",
					text: "These rows are still coming. Nothing was filled; try again in a moment.",
				});
				return;
			}
			byKey.set(here.key, here);
		}
		const left = changing(cells, (key) => byKey.get(key), columns);
		if (left.length) on.onFill(left);
	};
	const mark = (wanted: Mark) => fill(marked(range, wanted, row, columns));
	const rowsChosen = () =>
		Array.from({ length: range.bottom - range.top + 1 }, (_, index) => row(range.top + index)).filter(
			(one): one is Row => one !== undefined,
		);

	/** A host is named where there is none; its team and plug are said where there is one. */
	const mayName = () => {
		const here = row(range.top);
		const named = BEFORE[at.column];
		if (!here || here.locked) return false;
		return named === "host" ? !here.host : (named === "team" || named === "plug") && here.host !== "";
	};
	const onNamed = (said: string | null) => {
		const field = BEFORE[at.column];
		setNaming(null);
		box.current?.focus();
		if (said === null) return;
		if (field === "host" && said)
			on.onAttach(
				rowsChosen().map((one) => one.key),
				said,
			);
		if (field === "team" || field === "plug") {
			const hosts = [...new Set(rowsChosen().map((one) => one.host))].filter(Boolean);
			if (hosts.length) on.onDress(hosts, field, said);
		}
	};

	const onKeyDown = (event: React.KeyboardEvent) => {
		const page = Math.max(1, Math.floor((box.current?.clientHeight ?? 480) / HEIGHT) - 4);
		const steps: Record<string, [number, number]> = {
			ArrowDown: [1, 0],
			ArrowUp: [-1, 0],
			ArrowRight: [0, 1],
			ArrowLeft: [0, -1],
			PageDown: [page, 0],
			PageUp: [-page, 0],
			Home: [0, -columns.length - FIRST],
			End: [0, columns.length + FIRST],
		};
		const step = steps[event.key];
		if (step) {
			event.preventDefault();
			const far = event.ctrlKey || event.metaKey ? total : 1;
			go({ row: at.row + step[0] * far, column: at.column + step[1] }, event.shiftKey);
			return;
		}
		if (!mayEdit) return;
		const key = event.key.toLowerCase();
		const inSegments = range.right >= FIRST;
		const acts: Record<string, () => void> =
			event.ctrlKey || event.metaKey
				? {
						d: () => fill(filled(range, "down", row, columns)),
						r: () => fill(filled(range, "right", row, columns)),
					}
				: inSegments
					? {
							t: () => mark("tagged"),
							u: () => mark("untagged"),
							delete: () => mark(""),
							backspace: () => mark(""),
						}
					: {
							enter: () => mayName() && setNaming(""),
							delete: () => {
								const hosts = [...new Set(rowsChosen().map((one) => one.host))].filter(Boolean);
								if (hosts.length) on.onDetach(hosts);
							},
						};
		const act = acts[key];
		if (act) {
			event.preventDefault();
			act();
		} else if (!inSegments && !event.ctrlKey && !event.metaKey && /^[a-z]$/.test(key) && mayName()) {
			event.preventDefault();
			setNaming(key);
		}
	};

	const onCopy = (event: React.ClipboardEvent) => {
		const lines = rowsChosen().map((one) =>
			Array.from({ length: range.right - range.left + 1 }, (_, column) =>
				textOf(one, range.left + column),
			).join("\t"),
		);
		event.clipboardData.setData("text/plain", lines.join("\n"));
		event.preventDefault();
	};
	const onPaste = (event: React.ClipboardEvent) => {
		if (!mayEdit || naming !== null) return;
		event.preventDefault();
		const text = event.clipboardData.getData("text/plain");
		if (range.left < FIRST) {
			const names = text.split(/\r?\n/).map((line) => line.split("\t")[0]?.trim() ?? "");
			const rows = names.map((_, index) => row(range.top + index)?.key).filter((key): key is string => !!key);
			on.onAttach(rows, names.filter(Boolean).join(", "));
			return;
		}
		const found = pasted(text, { row: range.top, column: range.left }, row, columns);
		if (found.wrong) tell({ tone: "wrong", text: found.wrong });
		else if (found.cells.length) on.onFill(found.cells);
	};

	const namingIn = (name: (typeof BEFORE)[number] | undefined) =>
		name && (
			<Naming
				start={naming ?? ""}
				label={LABELS[name]}
				options={name === "team" || name === "plug" ? known[name] : []}
				onDone={onNamed}
			/>
		);

	return (
		// biome-ignore lint/a11y/useSemanticElements: a virtual grid has rows and columns that a table element could not have
		<div
			ref={box}
			role="grid"
			aria-label="Ports and segments"
			aria-rowcount={total + 1}
			aria-colcount={columns.length + FIRST}
			aria-multiselectable="true"
			tabIndex={0}
			className="min-h-0 flex-1 overflow-auto outline-none"
			onKeyDown={onKeyDown}
			onCopy={onCopy}
			onPaste={onPaste}
		>
			<div style={{ width: across.getTotalSize(), minWidth: "100%" }}>
				<Head columns={columns} seen={across.getVirtualItems()} />
				<div className="relative" style={{ height: down.getTotalSize() }}>
					{seen.map((item) => {
						const here = row(item.index);
						const chosen = item.index === at.row;
						const inRange = range.top <= item.index && item.index <= range.bottom;
						return (
							<Line
								key={item.key}
								index={item.index}
								start={item.start}
								row={here}
								columns={columns}
								seen={across.getVirtualItems()}
								left={inRange ? range.left : 1}
								right={inRange ? range.right : 0}
								focus={chosen ? at.column : null}
								other={here && others.get(here.key)}
								naming={chosen && naming !== null ? namingIn(BEFORE[at.column]) : null}
								onGo={onGo}
							/>
						);
					})}
				</div>
			</div>
		</div>
	);
}
