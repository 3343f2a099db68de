/** What is to be staged, as a sentence whose words are controls. */
import { useState } from "react";
import type { Sums } from "./line";
import type { NewStaging } from "./queries";

interface Props {
	sum: Sums;
	busy: boolean;
	onBegin: (wish: NewStaging) => void;
	onLeave: () => void;
}

const WORD = "border-b border-indigo-line bg-transparent font-[600] text-indigo";

const number = (text: string, least: number, most: number) =>
	Math.min(most, Math.max(least, Number(text.replace(/\D/g, "")) || least));

/** A moment as it was typed here, with this place's zone. */
const zoned = (text: string) => (text ? new Date(text).toISOString() : null);

export function Begin({ sum, busy, onBegin, onLeave }: Props) {
	const [atOnce, setAtOnce] = useState("8");
	const [failures, setFailures] = useState("1");
	const [seconds, setSeconds] = useState("120");
	const [only, setOnly] = useState("");
	const [when, setWhen] = useState("any");
	const [from, setFrom] = useState("");
	const [until, setUntil] = useState("");
	const between = when === "window" ? { from_at: zoned(from), until_at: zoned(until) } : {};
	const switches = only.split(/[\s,]+/).filter(Boolean);
	return (
		<section className="mt-3 border-l-4 border-indigo pl-3">
			<p className="max-w-[76ch] text-[15px] leading-[2]">
				Put the newest edition on{" "}
				<input
					aria-label="Which switches"
					className={`${WORD} mono w-[24ch]`}
					value={only}
					placeholder={`all ${sum.all} switches`}
					onChange={(event) => setOnly(event.target.value)}
				/>
				, wave by wave,{" "}
				<input
					aria-label="How many at once"
					className={`${WORD} w-[4ch]`}
					value={atOnce}
					onChange={(event) => setAtOnce(event.target.value)}
				/>{" "}
				at once. Stop after{" "}
				<input
					aria-label="How many failures"
					className={`${WORD} w-[3ch]`}
					value={failures}
					onChange={(event) => setFailures(event.target.value)}
				/>{" "}
				{number(failures, 1, 1000) === 1 ? "failure" : "failures"}. A switch that does not reach Barrio from
				its new files within{" "}
				<input
					aria-label="Seconds to confirm"
					className={`${WORD} w-[5ch]`}
					value={seconds}
					onChange={(event) => setSeconds(event.target.value)}
				/>{" "}
				seconds goes back by itself. Begin switches{" "}
				<select
					aria-label="When"
					className={WORD}
					value={when}
					onChange={(event) => setWhen(event.target.value)}
				>
					<option value="any">at any time</option>
					<option value="window">only between</option>
				</select>
				{when === "window" && (
					<>
						{" "}
						<input
							aria-label="From"
							type="datetime-local"
							className={WORD}
							value={from}
							onChange={(event) => setFrom(event.target.value)}
						/>{" "}
						and{" "}
						<input
							aria-label="Until"
							type="datetime-local"
							className={WORD}
							value={until}
							onChange={(event) => setUntil(event.target.value)}
						/>
					</>
				)}
				.
			</p>
			<p className="mt-1 flex gap-5">
				<button
					type="button"
					className="button-main"
					disabled={busy}
					onClick={() =>
						onBegin({
							edition: 0,
							switches,
							at_once: number(atOnce, 1, 1000),
							stop_after: number(failures, 1, 1000),
							confirm_seconds: number(seconds, 10, 3600),
							...between,
						})
					}
				>
					Begin
				</button>
				<button type="button" className="button-plain" onClick={onLeave}>
					Leave it
				</button>
			</p>
		</section>
	);
}
