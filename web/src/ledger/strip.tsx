/** One strip, painted; it follows its size and the theme. */
import { useEffect, useRef } from "react";
import { type Painted, paint } from "./paint";

export function Strip({ className = "h-3", ...painted }: Painted & { className?: string }) {
	const canvas = useRef<HTMLCanvasElement>(null);
	const latest = useRef(painted);
	latest.current = painted;
	useEffect(() => {
		if (canvas.current) paint(canvas.current, latest.current);
	});
	useEffect(() => {
		const found = canvas.current;
		if (!found) return;
		const again = () => paint(found, latest.current);
		const sizes = new ResizeObserver(again);
		sizes.observe(found);
		const themes = new MutationObserver(again);
		themes.observe(document.documentElement, { attributes: true });
		return () => {
			sizes.disconnect();
			themes.disconnect();
		};
	}, []);
	return (
		<span aria-hidden="true" className="block">
			<canvas ref={canvas} className={`block w-full ${className}`} />
		</span>
	);
}
