/** The Weave: the fabric's picture. Click a crossing, a leaf or a spine; arrow keys move; the margin tells. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Weave } from "../api/client";
import { draw, paints } from "./draw";
import { at, type Cloth, HEAD, layOut, ROW } from "./geometry";

export interface Choice {
	spine?: string;
	leaf?: string;
}

interface Props {
	weave: Weave;
	chosen: Choice;
	onChoose: (choice: Choice) => void;
}

export function WeavePicture({ weave, chosen, onChoose }: Props) {
	const frame = useRef<HTMLDivElement>(null);
	const canvas = useRef<HTMLCanvasElement>(null);
	const [size, setSize] = useState({ width: 690, height: 600 });
	const [hovered, setHovered] = useState<Choice>({});
	const cloth = useMemo(() => layOut(weave, size.width), [weave, size.width]);
	const fresh = useMemo(() => new Set(weave.fresh), [weave.fresh]);

	useEffect(() => {
		if (!frame.current) return;
		const watch = new ResizeObserver(([entry]) => {
			if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
		});
		watch.observe(frame.current);
		return () => watch.disconnect();
	}, []);

	const paintNow = useCallback(() => {
		const box = frame.current;
		const context = canvas.current?.getContext("2d");
		if (!box || !context || !canvas.current) return;
		const scale = devicePixelRatio || 1;
		const { width, height } = size;
		if (
			canvas.current.width !== Math.round(width * scale) ||
			canvas.current.height !== Math.round(height * scale)
		) {
			canvas.current.width = Math.round(width * scale);
			canvas.current.height = Math.round(height * scale);
		}
		context.setTransform(scale, 0, 0, scale, 0, 0);
		const view = { scrollX: box.scrollLeft, scrollY: box.scrollTop, width, height };
		draw(context, cloth, weave, view, { chosen, hovered, fresh }, paints());
	}, [cloth, weave, chosen, hovered, fresh, size]);

	useEffect(() => {
		paintNow();
		void document.fonts.ready.then(paintNow);
		addEventListener("themechange", paintNow);
		return () => removeEventListener("themechange", paintNow);
	}, [paintNow]);

	// What the address says is chosen must be in view when the screen opens.
	const opened = useRef(false);
	useEffect(() => {
		if (opened.current || !chosen.leaf) return;
		opened.current = true;
		requestAnimationFrame(() => reveal(frame.current, cloth, chosen));
	}, [cloth, chosen]);

	const find = (event: React.MouseEvent): Choice => {
		const box = frame.current;
		const rectangle = canvas.current?.getBoundingClientRect();
		if (!box || !rectangle) return {};
		const scroll = { x: box.scrollLeft, y: box.scrollTop };
		return at(cloth, event.clientX - rectangle.left, event.clientY - rectangle.top, scroll);
	};

	return (
		<div
			ref={frame}
			role="application"
			// biome-ignore lint/a11y/noNoninteractiveTabindex: it takes the arrow keys
			tabIndex={0}
			aria-label={`Weave of ${weave.spines.length} spines and ${weave.leaves.length} leaves. Arrow keys move from crossing to crossing.`}
			className="relative min-h-0 flex-1 overflow-auto"
			onScroll={paintNow}
			onKeyDown={(event) => {
				const next = move(weave, chosen, event.key);
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
					cursor: hovered.spine || hovered.leaf ? "pointer" : "default",
				}}
				className="sticky top-0 left-0 block"
				onMouseMove={(event) => {
					const next = find(event);
					if (next.spine !== hovered.spine || next.leaf !== hovered.leaf) setHovered(next);
				}}
				onMouseLeave={() => setHovered({})}
				onClick={(event) => onChoose(find(event))}
			/>
			<p className="sr-only" aria-live="polite">
				{[chosen.spine, chosen.leaf].filter(Boolean).join(" and ")}
			</p>
		</div>
	);
}

function move(weave: Weave, from: Choice, key: string): Choice | null {
	const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[key];
	if (!step || !weave.leaves.length) return key === "Escape" ? {} : null;
	const within = (index: number, count: number) => Math.max(0, Math.min(count - 1, index));
	const spine = weave.spines.findIndex((one) => one.name === from.spine);
	const leaf = weave.leaves.findIndex((one) => one.name === from.leaf);
	return {
		spine:
			weave.spines[within(Math.max(0, spine) + (spine < 0 ? 0 : (step[0] ?? 0)), weave.spines.length)]?.name,
		leaf: weave.leaves[within(Math.max(0, leaf) + (leaf < 0 ? 0 : (step[1] ?? 0)), weave.leaves.length)]
			?.name,
	};
}

function reveal(box: HTMLDivElement | null, cloth: Cloth, choice: Choice) {
	const row = cloth.rows.find((one) => one.leaf.name === choice.leaf);
	if (!box || !row) return;
	if (row.y - ROW < box.scrollTop + HEAD) box.scrollTop = row.y - HEAD - 2 * ROW;
	if (row.y + ROW > box.scrollTop + box.clientHeight) box.scrollTop = row.y + 2 * ROW - box.clientHeight;
	const x = cloth.spines.find((one) => one.spine.name === choice.spine)?.x ?? 0;
	const left = x - cloth.left.threads;
	if (left < box.scrollLeft || x + 30 > box.scrollLeft + box.clientWidth)
		box.scrollLeft = x - (box.clientWidth + cloth.left.threads) / 2;
}
