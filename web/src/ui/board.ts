/** A canvas as large as what it stands in, as sharp as the screen is. */
import { type RefObject, useEffect, useState } from "react";

export interface Size {
	width: number;
	height: number;
}

/** The size of an element, followed as it changes. */
export function useSize(frame: RefObject<HTMLElement | null>, first: Size): Size {
	const [size, setSize] = useState(first);
	useEffect(() => {
		if (!frame.current) return;
		const watch = new ResizeObserver(([entry]) => {
			if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
		});
		watch.observe(frame.current);
		return () => watch.disconnect();
	}, [frame]);
	return size;
}

/** What draws on a canvas of this size, in pixels of the page; nothing where there is no canvas to draw on. */
export function pen(board: HTMLCanvasElement | null, size: Size): CanvasRenderingContext2D | null {
	const context = board?.getContext("2d") ?? null;
	if (!board || !context) return null;
	const sharp = devicePixelRatio || 1;
	const [wide, tall] = [Math.round(size.width * sharp), Math.round(size.height * sharp)];
	if (board.width !== wide || board.height !== tall) {
		board.width = wide;
		board.height = tall;
	}
	context.setTransform(sharp, 0, 0, sharp, 0, 0);
	return context;
}
