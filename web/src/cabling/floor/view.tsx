/** The hall from above: click a rack; arrow keys move from rack to rack, + and − zoom, a drag moves the plan. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useKey } from "../../ui/keys";
import { usePaint } from "../../ui/usepaint";
import { counted } from "../../ui/words";
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
	onChoose: (rack: string) => void;
}

const NONE: Marks["drawing"] = [];

export function FloorPicture({ floor, racks, route, bundles, laid, onChoose }: Props) {
	const frame = useRef<HTMLDivElement>(null);
	const canvas = useRef<HTMLCanvasElement>(null);
	const [size, setSize] = useState({ width: 900, height: 300 });
	const [own, setView] = useState<View | null>(null);
	const [hovered, setHovered] = useState<Spot>();
	const grip = useRef<{ x: number; y: number; moved: boolean } | null>(null);
	const paint = usePaint();
	const view = useMemo(() => own ?? fitted(floor, size.width, size.height), [own, floor, size]);
	const marks = useMemo(
		(): Marks => ({
			racks: new Set(racks),
			hovered: hovered?.rack ?? "",
			laid,
			route,
			bundles,
			dragged: null,
			drawing: NONE,
		}),
		[racks, hovered, route, bundles, laid],
	);

	useEffect(() => {
		if (!frame.current) return;
		const watch = new ResizeObserver(([entry]) => {
			if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
		});
		watch.observe(frame.current);
		return () => watch.disconnect();
	}, []);

	const paintNow = useCallback(() => {
		const board = canvas.current;
		const context = board?.getContext("2d");
		if (!board || !context) return;
		const sharp = devicePixelRatio || 1;
		const [wide, tall] = [Math.round(size.width * sharp), Math.round(size.height * sharp)];
		if (board.width !== wide || board.height !== tall) {
			board.width = wide;
			board.height = tall;
		}
		context.setTransform(sharp, 0, 0, sharp, 0, 0);
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
						grip.current = { ...place(event), moved: false };
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
						setView({ ...view, x: view.x + at.x - held.x, y: view.y + at.y - held.y });
						grip.current = { ...at, moved: true };
					}}
					onPointerUp={(event) => {
						const at = place(event);
						if (!grip.current?.moved) onChoose(rackAt(floor, view, at.x, at.y)?.rack ?? "");
						grip.current = null;
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
