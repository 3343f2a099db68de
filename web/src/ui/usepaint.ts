/** The theme's colours for what is drawn on a canvas. */
import { useCallback, useEffect, useRef } from "react";
import { type Paint, paints } from "./paint";

/** The theme's colours, read once and again when the theme changes. */
export function usePaint(): () => Paint {
	const kept = useRef<Paint | null>(null);
	useEffect(() => {
		const forget = () => {
			kept.current = null;
		};
		addEventListener("themechange", forget, { capture: true });
		return () => removeEventListener("themechange", forget, { capture: true });
	}, []);
	return useCallback(() => {
		kept.current ??= paints();
		return kept.current;
	}, []);
}
