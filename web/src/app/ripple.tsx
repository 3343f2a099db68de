/** The strip along the bottom: what the last change did, the way back, and the way out. */
import type { Fabric } from "../api/client";
import { bundle, useDownload } from "../api/downloads";
import { LARGE, useBundleJob } from "../api/jobs";
import { useMay } from "../api/session";
import { clock, effectPhrases } from "../ui/words";

interface Props {
	fabric: Fabric;
	onChange: (kind: "undo" | "redo") => void;
	busy: boolean;
}

export function RippleStrip({ fabric, onChange, busy }: Props) {
	const download = useDownload();
	const may = useMay("edit", fabric.name);
	const make = useBundleJob(fabric.name);
	const phrases = effectPhrases(fabric.effect);
	return (
		<section
			aria-label="Last change"
			className="ripple flex items-center gap-5 overflow-hidden border-t border-hair px-5.5 whitespace-nowrap"
		>
			<b className="font-bold">{fabric.undo ? "Last change" : "New"}</b>
			<span className="max-w-[280px] truncate" title={fabric.note}>
				“{fabric.note}”
			</span>
			{(phrases.length ? phrases : ["nothing moves"]).map((phrase) => (
				<span key={phrase}>{phrase}</span>
			))}
			{fabric.undo && may && (
				<button type="button" className="button-plain" disabled={busy} onClick={() => onChange("undo")}>
					Undo
				</button>
			)}
			{fabric.redo && may && (
				<button type="button" className="button-plain" disabled={busy} onClick={() => onChange("redo")}>
					Redo “{fabric.redo}”
				</button>
			)}
			<span className="ml-auto text-soft" aria-live="polite">
				{busy ? "Saving…" : `Saved ${clock(fabric.saved_at)}`}
			</span>
			{fabric.sums.switches > LARGE ? (
				<button
					type="button"
					className="button-main"
					disabled={make.isPending}
					onClick={() => make.mutate("zip")}
				>
					Make the bundle
				</button>
			) : (
				<button
					type="button"
					className="button-main"
					onClick={() => void download(bundle(fabric.name, "zip"))}
				>
					Download bundle
				</button>
			)}
		</section>
	);
}
