/** The Weave: the fabric's picture. Click a crossing, a switch or a rack; arrow keys move; + and − zoom. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Weave } from "../../api/client";
import { pen, useSize } from "../../ui/board";
import { useKey } from "../../ui/keys";
import { usePaint } from "../../ui/usepaint";
import { draw } from "./draw";
import { at, type Choice, type Cloth, fitting, layOut, racksIn } from "./geometry";
import { moved } from "./moves";
import type { Lying, Marks, Step } from "./scene";

interface Props {
	weave: Weave;
	chosen: Choice;
	onChoose: (choice: Choice) => void;
	find: string;
	/** How the cables of links lie, while cabling is looked at. */
	laying?: ReadonlyMap<string, Lying>;
	/** The steps of each switch, by its name, while staging is looked at. */
	standing?: ReadonlyMap<string, readonly Step[]>;
	/** The switches that the draft touches, by key; without it, those that the last change brought are hatched. */
	touched?: ReadonlySet<string>;
}

const FIRST = { width: 690, height: 600 };
const LEAST = 0.02;
const MOST = 4;

export function WeavePicture({ weave, chosen, onChoose, find, laying, standing, touched }: Props) {
	const frame = useRef<HTMLDivElement>(null);
	const canvas = useRef<HTMLCanvasElement>(null);
	const size = useSize(frame, FIRST);
	const [zoom, setZoom] = useState(1);
	const [hovered, setHovered] = useState<Choice>({});
	const cloth = useMemo(() => layOut(weave, size.width, zoom), [weave, size.width, zoom]);
	const marks = useMarks(weave, chosen, hovered, find, { laying, standing }, touched);
	const paint = usePaint();
	/** Where the point under the cursor is to be after a zoom: a share of the cloth, and a place of the bench. */
	const anchor = useRef<{ x: number; y: number; atX: number; atY: number } | null>(null);

	const paintNow = useCallback(() => {
		const box = frame.current;
		const context = pen(canvas.current, size);
		if (!box || !context) return;
		const { width, height } = size;
		draw(
			context,
			cloth,
			weave,
			{ scrollX: box.scrollLeft, scrollY: box.scrollTop, width, height },
			marks,
			paint(),
		);
	}, [cloth, weave, marks, size, paint]);

	useEffect(() => {
		const box = frame.current;
		const kept = anchor.current;
		if (box && kept) {
			box.scrollLeft = kept.x * cloth.width - kept.atX;
			box.scrollTop = kept.y * (cloth.height - cloth.head) + cloth.head - kept.atY;
			anchor.current = null;
		}
		paintNow();
		void document.fonts.ready.then(paintNow);
		addEventListener("themechange", paintNow);
		return () => removeEventListener("themechange", paintNow);
	}, [paintNow, cloth]);

	const zoomBy = useCallback(
		(factor: number, atX = size.width / 2, atY = size.height / 2) => {
			const box = frame.current;
			if (!box) return;
			anchor.current = {
				x: (box.scrollLeft + atX) / cloth.width,
				y: (box.scrollTop + atY - cloth.head) / (cloth.height - cloth.head),
				atX,
				atY,
			};
			setZoom((was) => Math.max(LEAST, Math.min(MOST, was * factor)));
		},
		[cloth, size],
	);
	const fit = useCallback(() => {
		anchor.current = { x: 0, y: 0, atX: 0, atY: cloth.head };
		setZoom((was) => (was === 1 ? fitting(weave, size.width, size.height) : 1));
	}, [weave, size, cloth.head]);
	useKey("+", () => zoomBy(1.4));
	useKey("=", () => zoomBy(1.4));
	useKey("-", () => zoomBy(1 / 1.4));
	useKey("0", fit);

	// A wheel that is held with Ctrl zooms, as a pinch does; listened for by hand, so that the page does not zoom too.
	useEffect(() => {
		const box = frame.current;
		if (!box) return;
		const wheel = (event: WheelEvent) => {
			if (!event.ctrlKey) return;
			event.preventDefault();
			const edge = box.getBoundingClientRect();
			zoomBy(Math.exp(-event.deltaY / 240), event.clientX - edge.left, event.clientY - edge.top);
		};
		box.addEventListener("wheel", wheel, { passive: false });
		return () => box.removeEventListener("wheel", wheel);
	}, [zoomBy]);

	// What the address says is chosen must be in view when the screen opens, and what is searched for when it is found.
	const opened = useRef(false);
	useEffect(() => {
		if (opened.current || !(chosen.leaf || chosen.spine)) return;
		opened.current = true;
		requestAnimationFrame(() => reveal(frame.current, cloth, chosen));
	}, [cloth, chosen]);
	const { found } = marks;
	useEffect(() => {
		const first = found?.values().next().value;
		if (!first) return;
		const there = cloth.byName.get(first);
		reveal(frame.current, cloth, there && there.column < 0 ? { leaf: first } : { spine: first });
	}, [found, cloth]);

	const look = (event: React.MouseEvent): Choice => {
		const box = frame.current;
		const rectangle = canvas.current?.getBoundingClientRect();
		if (!box || !rectangle) return {};
		const scroll = { x: box.scrollLeft, y: box.scrollTop };
		return at(cloth, event.clientX - rectangle.left, event.clientY - rectangle.top, scroll);
	};

	return (
		<div className="relative flex min-h-0 flex-1">
			<div
				ref={frame}
				role="application"
				// biome-ignore lint/a11y/noNoninteractiveTabindex: it takes the arrow keys
				tabIndex={0}
				aria-label={describe(weave)}
				className="relative min-h-0 flex-1 overflow-auto"
				onScroll={paintNow}
				onKeyDown={(event) => {
					const next = moved(weave, chosen, event.key);
					if (!next) return;
					event.preventDefault();
					onChoose(next);
					reveal(frame.current, cloth, next);
				}}
			>
				<div style={{ width: cloth.width, height: cloth.height }} className="absolute top-0 left-0" />
				<canvas
					ref={canvas}
					style={{
						width: size.width,
						height: size.height,
						cursor: hovered.spine || hovered.leaf || hovered.racks ? "pointer" : "default",
					}}
					className="sticky top-0 left-0 block"
					onMouseMove={(event) => {
						const next = look(event);
						if (next.spine !== hovered.spine || next.leaf !== hovered.leaf || next.racks !== hovered.racks)
							setHovered(next);
					}}
					onMouseLeave={() => setHovered({})}
					onClick={(event) => {
						const next = look(event);
						const first = chosen.racks?.split("..")[0];
						if (event.shiftKey && next.racks && first) onChoose({ racks: `${first}..${next.racks}` });
						else onChoose(next);
					}}
				/>
				<p className="sr-only" aria-live="polite">
					{said(weave, chosen)}
				</p>
			</div>
			<Zoom zoom={zoom} onZoom={zoomBy} onFit={fit} />
		</div>
	);
}

function Zoom({ zoom, onZoom, onFit }: { zoom: number; onZoom: (by: number) => void; onFit: () => void }) {
	return (
		<div className="absolute -top-[31px] left-[168px] flex items-center border border-hair bg-raised text-[12px]">
			<button
				type="button"
				className="size-6.5 hover:bg-chosen"
				aria-label="Smaller"
				onClick={() => onZoom(1 / 1.4)}
			>
				−
			</button>
			<button
				type="button"
				className="h-6.5 min-w-12 border-hair border-x px-1.5 tabular-nums hover:bg-chosen"
				title="The whole fabric, and back (0)"
				onClick={onFit}
			>
				{Math.round(zoom * 100)} %
			</button>
			<button
				type="button"
				className="size-6.5 hover:bg-chosen"
				aria-label="Larger"
				onClick={() => onZoom(1.4)}
			>
				+
			</button>
		</div>
	);
}

function useMarks(
	weave: Weave,
	chosen: Choice,
	hovered: Choice,
	find: string,
	looked: Pick<Marks, "laying" | "standing">,
	touched?: ReadonlySet<string>,
) {
	const fresh = useMemo(() => touched ?? new Set(weave.fresh), [weave.fresh, touched]);
	const full = useMemo(() => new Set(weave.full_racks), [weave.full_racks]);
	const racks = useMemo(() => new Set(racksIn(weave, chosen.racks)), [weave, chosen.racks]);
	const found = useMemo(() => {
		const words = find.trim().toLowerCase();
		if (!words) return null;
		const matches = [...weave.leaves, ...weave.spines, ...weave.supers].filter(
			(one) =>
				one.name.includes(words) ||
				one.rack.includes(words) ||
				one.model.toLowerCase().includes(words) ||
				one.loopback === words ||
				String(one.asn) === words ||
				one.state.includes(words),
		);
		return new Set(matches.map((one) => one.name));
	}, [weave, find]);
	const { laying, standing } = looked;
	return useMemo(
		() => ({ chosen, hovered, racks, fresh, full, found, laying, standing }),
		[chosen, hovered, racks, fresh, full, found, laying, standing],
	);
}

function describe(weave: Weave): string {
	const pods = weave.pods.length
		? `${weave.pods.length} pods under ${weave.supers.length} super-spines, `
		: "";
	return `Weave of ${pods}${weave.spines.length} spines and ${weave.leaves.length} leaves. Arrow keys move from crossing to crossing, plus and minus zoom. The same as a table: press L.`;
}

/** What is chosen, in words for those who do not see the picture. */
function said(weave: Weave, { spine, leaf, racks }: Choice): string {
	if (racks) return `racks ${racks} chosen`;
	const one = weave.leaves.find((thread) => thread.name === leaf);
	const other = [...weave.spines, ...weave.supers].find((thread) => thread.name === spine);
	const words = [other && `${other.name}${other.state ? `, ${other.state}` : ""}`];
	words.push(one && `${one.name} in rack ${one.rack}${one.state ? `, ${one.state}` : ""}`);
	if (one && other) words.push(`${one.lanes} ${one.lanes === 1 ? "link" : "links"}`);
	return words.filter(Boolean).join("; ");
}

function reveal(box: HTMLDivElement | null, cloth: Cloth, choice: Choice) {
	if (!box) return;
	const spine = cloth.byName.get(choice.spine ?? "");
	const row = cloth.byName.get(choice.leaf ?? "")?.row ?? (spine?.row.index === -1 ? undefined : spine?.row);
	if (row) {
		const above = box.scrollTop + cloth.head + cloth.row;
		if (row.y < above) box.scrollTop = row.y - cloth.head - 2 * cloth.row - 24;
		if (row.y + cloth.row > box.scrollTop + box.clientHeight)
			box.scrollTop = row.y + 2 * cloth.row - box.clientHeight;
	}
	const x = spine ? (cloth.columns[spine.column]?.x ?? 0) : 0;
	if (!spine) return;
	const left = x - cloth.left.threads;
	if (left < box.scrollLeft || x + 30 > box.scrollLeft + box.clientWidth)
		box.scrollLeft = x - (box.clientWidth + cloth.left.threads) / 2;
}
