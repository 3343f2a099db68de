/** The marks of the grid: told apart by shape and word. A full block is untagged, a block with a thread through it is tagged. */
import type { Mark } from "./queries";

export function MarkShape({ mark, paused = false }: { mark: Mark; paused?: boolean }) {
	if (mark === "") return <span className="block size-[3px] rounded-full bg-hair" />;
	return (
		<span className="flex items-center gap-1">
			<svg width="18" height="12" aria-hidden="true" className={paused ? "opacity-45" : ""}>
				<rect
					x="0.8"
					y="0.8"
					width="16.4"
					height="10.4"
					fill={mark === "untagged" ? "var(--ink)" : "none"}
					stroke="var(--ink)"
					strokeWidth="1.6"
					strokeDasharray={paused ? "3 2" : undefined}
				/>
				{mark === "tagged" && <line x1="0" x2="18" y1="6" y2="6" stroke="var(--ink)" strokeWidth="1.6" />}
			</svg>
			{mark === "untagged" && (
				<small aria-hidden="true" className="text-[10.5px] text-soft">
					un
				</small>
			)}
		</span>
	);
}
