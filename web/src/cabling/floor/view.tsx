/** The hall from above: click a rack; arrow keys move from rack to rack, + and − zoom, a drag moves the plan. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { pen, useSize } from "../../ui/board";
import { useKey } from "../../ui/keys";
import { usePaint } from "../../ui/usepaint";
import { counted } from "../../ui/words";
import { type At, type Drawing, snapped } from "../drawing";
import type { Bundle, Floor, Spot } from "../queries";
import { draw, type Marks } from "./draw";
import { fitted, neighbour, rackAt, type View, zoomed } from "./geometry";

interface Props {
	floor: Floor;
	/** The racks that are chosen, or that the ends of the chosen cable stand in. */
	racks: readonly string[];
	route: readonly { x: number; y: number }[];
	bundles: readonly Bundle[];
	laid: ReadonlyMap<string, number>;
	/** While the plan is drawn on. */
	drawing?: Drawing;
	onChoose: (rack: string) => void;
}

const FIRST = { width: 900, height: 300 };
const NONE: Marks["drawing"] = [];
const DECIMETRE: Record<string, At> = {
	ArrowLeft: { x: -100, y: 0 },
	ArrowRight: { x: 100, y: 0 },
	ArrowUp: { x: 0, y: -100 },
	ArrowDown: { x: 0, y: 100 },
};

export function FloorPicture({ floor, racks, route, bundles, laid, drawing, onChoose }: Props) {
	const frame = useRef<HTMLDivElement>(null);
	const canvas = useRef<HTMLCanvasElement>(null);
	const size = useSize(frame, FIRST);
	const [own, setView] = useState<View | null>(null);
	const [hovered, setHovered] = useState<Spot>();
	const grip = useRef<{ x: number; y: number; moved: boolean; row: boolean } | null>(null);
	const [dragged, setDragged] = useState<At | null>(null);
	const paint = usePaint();
	const view = useMemo(() => own ?? fitted(floor, size.width, size.height), [own, floor, size]);
	const marks = useMemo(
		(): Marks => ({
			racks: new Set(racks),
			hovered: hovered?.rack ?? "",
			laid,
			route,
			bundles,
			dragged: dragged && drawing?.row ? { row: drawing.row.row, hall: drawing.row.hall, ...dragged } : null,
			drawing: drawing?.tray ?? NONE,
		}),
		[racks, hovered, route, bundles, laid, dragged, drawing],
	);

	const paintNow = useCallback(() => {
		const context = pen(canvas.current, size);
		if (!context) return;
		draw(context, floor, view, size.width, size.height, marks, paint());
	}, [floor, view, size, marks, paint]);
	useEffect(() => {
		paintNow();
		void document.fonts.ready.then(paintNow);
		addEventListener("themechange", paintNow);
		return () => removeEventListener("themechange", paintNow);
	}, [paintNow]);

	const zoom = useCallback(
		(factor: number, x = size.width / 2, y = size.height / 2) => setView(zoomed(view, factor, x, y)),
		[view, size],
	);
	useKey("+", () => zoom(1.4));
	useKey("=", () => zoom(1.4));
	useKey("-", () => zoom(1 / 1.4));
	useKey("0", () => setView(null));
	useWheel(frame, zoom);

	const place = (event: React.PointerEvent) => {
		const edge = canvas.current?.getBoundingClientRect();
		return { x: event.clientX - (edge?.left ?? 0), y: event.clientY - (edge?.top ?? 0) };
	};
	const spot = floor.racks.find((rack) => rack.rack === (hovered?.rack ?? racks[0]));
	return (
		<div className="relative flex min-h-0 flex-1 flex-col">
			<div
				ref={frame}
				role="application"
				// biome-ignore lint/a11y/noNoninteractiveTabindex: it takes the arrow keys
				tabIndex={0}
				aria-label={`Floor plan of ${counted(floor.racks.length, "rack")}. Arrow keys move from rack to rack, plus and minus zoom.`}
				className="min-h-0 flex-1"
				onKeyDown={(event) => {
					const by = event.altKey ? DECIMETRE[event.key] : undefined;
					if (by && drawing?.row) {
						event.preventDefault();
						drawing.onMove(by);
						return;
					}
					const next = neighbour(floor, racks[0] ?? "", event.key);
					if (!next) return;
					event.preventDefault();
					onChoose(next.rack);
				}}
			>
				<canvas
					ref={canvas}
					style={{ width: size.width, height: size.height, cursor: hovered ? "pointer" : "default" }}
					className="absolute top-0 left-0 block touch-none"
					onPointerDown={(event) => {
						const at = place(event);
						const on = rackAt(floor, view, at.x, at.y);
						const row = Boolean(drawing?.row && on?.row === drawing.row.row && on.hall === drawing.row.hall);
						grip.current = { ...at, moved: false, row };
						event.currentTarget.setPointerCapture(event.pointerId);
					}}
					onPointerMove={(event) => {
						const at = place(event);
						const held = grip.current;
						if (!held) {
							setHovered(rackAt(floor, view, at.x, at.y));
							return;
						}
						if (!held.moved && Math.hypot(at.x - held.x, at.y - held.y) < 4) return;
						held.moved = true;
						if (held.row) {
							const by = (from: number, to: number) => snapped((to - from) / view.scale);
							setDragged({ x: by(held.x, at.x), y: by(held.y, at.y) });
							return;
						}
						setView({ ...view, x: view.x + at.x - held.x, y: view.y + at.y - held.y });
						grip.current = { ...held, ...at };
					}}
					onPointerUp={(event) => {
						const at = place(event);
						const held = grip.current;
						grip.current = null;
						if (held?.row && dragged) drawing?.onMove(dragged);
						setDragged(null);
						if (held?.moved) return;
						if (drawing?.tray)
							drawing.onCorner({
								x: snapped((at.x - view.x) / view.scale),
								y: snapped((at.y - view.y) / view.scale),
							});
						else onChoose(rackAt(floor, view, at.x, at.y)?.rack ?? "");
					}}
					onPointerLeave={() => setHovered(undefined)}
				/>
			</div>
			<p className="h-5 flex-none text-[12px] text-soft" aria-live="polite">
				{spot && said(spot)}
			</p>
		</div>
	);
}

/** A rack in a line: what is in it, what it draws, what ends in it. */
function said(rack: Spot): string {
	const power = `${(rack.watts / 1000).toFixed(1)} kW${rack.feed ? ` of ${rack.feed / 1000}` : ""}`;
	return `${rack.rack} in ${rack.row} of ${rack.hall}: ${rack.units} of ${rack.height} U, ${power}, ${counted(rack.cables, "cable")}`;
}

/** The wheel zooms the plan where the pointer is; listened for by hand, so that the page does not scroll too. */
function useWheel(
	frame: React.RefObject<HTMLDivElement | null>,
	zoom: (factor: number, x: number, y: number) => void,
) {
	useEffect(() => {
		const box = frame.current;
		if (!box) return;
		const wheel = (event: WheelEvent) => {
			event.preventDefault();
			const edge = box.getBoundingClientRect();
			zoom(Math.exp(-event.deltaY / 400), event.clientX - edge.left, event.clientY - edge.top);
		};
		box.addEventListener("wheel", wheel, { passive: false });
		return () => box.removeEventListener("wheel", wheel);
	}, [frame, zoom]);
}
