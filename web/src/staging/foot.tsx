/** How far a staging is, in a line, and what may be done about it. */
import { useState } from "react";
import type { Sums } from "./line";
import type { Deed, Staging } from "./queries";

interface Props {
	sum: Sums;
	staging: Staging | null | undefined;
	mayStage: boolean;
	busy: boolean;
	onDo: (deed: Deed) => void;
	onNew: () => void;
}

export function Foot({ sum, staging, mayStage, busy, onDo, onNew }: Props) {
	const [sure, setSure] = useState(false);
	const open = Boolean(staging && !staging.ended_at);
	return (
		<footer className="flex flex-wrap items-center gap-x-6 gap-y-1 border-t border-hair bg-wash px-5 py-2">
			<b className="font-[640]">
				{!open ? "Roll call" : staging?.state === "back" ? "Going back" : "Staging"}
			</b>
			<span>
				{sum.through} of {sum.all} handed over
			</span>
			{sum.works > 0 && <span>{sum.works} under way</span>}
			{sum.needs > 0 && (
				<span className="text-weld-ink">
					{sum.needs} {sum.needs === 1 ? "waits" : "wait"} for you
				</span>
			)}
			{staging?.left ? <span className="text-soft">about {minutes(staging.left)} left</span> : null}
			{mayStage && (
				<span className="ml-auto flex gap-5">
					{open && staging?.state === "runs" && (
						<button
							type="button"
							className="button-main"
							disabled={busy}
							onClick={() => onDo({ do: "pause" })}
						>
							Pause
						</button>
					)}
					{open && staging?.state === "paused" && (
						<button type="button" className="button-main" disabled={busy} onClick={() => onDo({ do: "on" })}>
							Go on
						</button>
					)}
					{open && staging?.state !== "back" && (
						<button
							type="button"
							className="button-plain"
							disabled={busy}
							onClick={() => onDo({ do: "leave" })}
						>
							End it here
						</button>
					)}
					{open && staging?.state !== "back" && !sure && (
						<button type="button" className="button-plain" disabled={busy} onClick={() => setSure(true)}>
							Put all back…
						</button>
					)}
					{open && staging?.state !== "back" && sure && (
						<button
							type="button"
							className="button-plain text-madder"
							disabled={busy}
							onClick={() => {
								setSure(false);
								onDo({ do: "putback" });
							}}
						>
							Yes, put the old files back on all of them
						</button>
					)}
					{!open && (
						<button type="button" className="button-main" onClick={onNew}>
							Stage…
						</button>
					)}
				</span>
			)}
		</footer>
	);
}

function minutes(seconds: number): string {
	return seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`;
}
