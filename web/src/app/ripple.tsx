/** The strip along the bottom: what the draft does against the newest edition, the way back from the last change, and the way out. */
import { Link } from "react-router";
import type { Fabric } from "../api/client";
import { bundle, useDownload } from "../api/downloads";
import { LARGE, useBundleJob } from "../api/jobs";
import { useMay } from "../api/session";
import { useRipple, useRippleSums } from "../editions/queries";
import { clock, counted, effectPhrases, number } from "../ui/words";

interface Props {
	fabric: Fabric;
	onChange: (kind: "undo" | "redo") => void;
	busy: boolean;
}

export function RippleStrip({ fabric, onChange, busy }: Props) {
	const download = useDownload();
	const may = useMay("edit", fabric.name);
	const make = useBundleJob(fabric.name);
	return (
		<section
			aria-label="What the draft does"
			className="ripple flex items-center gap-5 overflow-hidden border-t border-hair px-5.5 whitespace-nowrap"
		>
			<Does fabric={fabric} />
			<span className="max-w-[200px] min-w-12 truncate text-soft" title={`Last: ${fabric.note}`}>
				“{fabric.note}”
			</span>
			{fabric.undo && may && (
				<button type="button" className="button-plain" disabled={busy} onClick={() => onChange("undo")}>
					Undo
				</button>
			)}
			{fabric.redo && may && (
				<button
					type="button"
					className="button-plain"
					disabled={busy}
					title={fabric.redo}
					onClick={() => onChange("redo")}
				>
					Redo
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

/** The counts at once, and lines and sessions as soon as they are worked out; it opens into all of it. Without an edition, what the last change did. */
function Does({ fabric }: { fabric: Fabric }) {
	const sums = useRippleSums(fabric).data;
	const against = sums?.against ?? 0;
	return (
		<Link
			to={`/f/${fabric.name}/editions`}
			className="flex min-w-0 items-center gap-4 overflow-hidden hover:underline"
			title={against ? `against edition ${against}` : "there is no edition yet"}
		>
			{against ? (
				<Against fabric={fabric} against={against} counts={sums?.counts ?? {}} />
			) : (
				<>
					<b className="font-bold">{fabric.undo ? "Last change" : "New"}</b>
					<Phrases phrases={effectPhrases(fabric.effect)} />
				</>
			)}
		</Link>
	);
}

function Phrases({ phrases }: { phrases: string[] }) {
	return (
		<>
			{(phrases.length ? phrases : ["nothing moves"]).map((phrase) => (
				<span key={phrase}>{phrase}</span>
			))}
		</>
	);
}

interface AgainstProps {
	fabric: Fabric;
	against: number;
	counts: Record<string, number>;
}

function Against({ fabric, against, counts }: AgainstProps) {
	const { data: whole, error, isPlaceholderData } = useRipple(fabric);
	const ripple = whole && !isPlaceholderData && !error ? whole : undefined;
	const phrases = effectPhrases(counts);
	const touched = ripple ? ripple.new + ripple.gone + ripple.changed : 0;
	const same = ripple !== undefined && !touched && !phrases.length && !ripple.said.length;
	const rest = effectPhrases(
		Object.fromEntries(Object.entries(counts).filter(([key]) => !key.startsWith("switches"))),
	);
	if (same) return <b className="font-bold">As edition {against}</b>;
	return (
		<>
			<b className="font-bold">Draft</b>
			{error && <span className="text-madder">no ripple</span>}
			{!error && !ripple && <Phrases phrases={phrases.slice(0, 4)} />}
			{ripple && (
				<>
					<span>
						{counted(touched, "switch", "switches")}, +{number(ripple.added)} −{number(ripple.removed)} lines
					</span>
					<span className={ripple.sessions ? "font-semibold" : ""}>
						{counted(ripple.sessions, "session restarts", "sessions restart")}
					</span>
					{ripple.order.unsafe.length > 0 && <b className="text-madder">no safe order</b>}
					{rest.slice(0, 2).map((phrase) => (
						<span key={phrase}>{phrase}</span>
					))}
				</>
			)}
		</>
	);
}
