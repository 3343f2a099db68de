/** One proposal or oddity: what the brief would say, from what that was told, and what somebody says to it. */
import { useState } from "react";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { counted } from "../ui/words";
import { asBrief, SURE } from "./parts";
import type { Deed, Difference, Oddity, OddWord, Proposal } from "./queries";

interface Props {
	proposal: Proposal | undefined;
	oddity: Oddity | undefined;
	difference: Difference | undefined;
	may: boolean;
	busy: boolean;
	onDo: (deed: Deed) => void;
}

export function AdoptMargin({ proposal, oddity, difference, may, busy, onDo }: Props) {
	if (proposal) return <OfProposal key={proposal.key} one={proposal} may={may} busy={busy} onDo={onDo} />;
	if (oddity) return <OfOddity key={oddity.key} one={oddity} may={may} busy={busy} onDo={onDo} />;
	if (difference) return <OfDifference one={difference} />;
	return (
		<Margin width={340}>
			<MarginHead kind="what runs" title="Choose a line" />
			<p className="text-soft">
				What the brief would say, and from what that was told, stands here. Nothing enters the draft before
				you take it.
			</p>
		</Margin>
	);
}

interface OneProps<One> {
	one: One;
	may: boolean;
	busy: boolean;
	onDo: (deed: Deed) => void;
}

function OfProposal({ one, may, busy, onDo }: OneProps<Proposal>) {
	const [why, setWhy] = useState("");
	return (
		<Margin width={340}>
			<MarginHead kind={SURE[one.sure]} title={one.title} />
			<h3 className="mt-2 mb-1 text-soft">Told by</h3>
			<ul className="mb-3 list-disc pl-4">
				{one.evidence.map((words) => (
					<li key={words}>{words}</li>
				))}
			</ul>
			{one.edits.length > 0 && (
				<>
					<h3 className="mb-1 text-soft">The brief would say</h3>
					<pre className="mono mb-3 max-h-[320px] overflow-auto border-y border-hair py-2 text-[11.5px] whitespace-pre-wrap">
						{one.edits
							.map(({ path, value }) => `${path}: ${asBrief(value, 1)}`.replace(/: \n/, ":\n"))
							.join("\n")}
					</pre>
				</>
			)}
			{one.said ? (
				<>
					<p className="mb-2">
						{one.said === "taken" ? "It is in the draft" : "It was refused"}
						{one.by && ` by ${one.by}`}
						{one.why && `: ${one.why}`}.
					</p>
					{may && one.said === "refused" && (
						<button
							type="button"
							className="button-plain"
							disabled={busy}
							onClick={() => onDo({ do: "again", keys: [one.key] })}
						>
							Propose it again
						</button>
					)}
				</>
			) : (
				may && (
					<div className="flex flex-col gap-3">
						<button
							type="button"
							className="button-main self-start"
							disabled={busy}
							onClick={() => onDo({ do: "take", keys: [one.key] })}
						>
							Take it
						</button>
						<form
							className="flex items-end gap-3"
							onSubmit={(event) => {
								event.preventDefault();
								onDo({ do: "refuse", keys: [one.key], why });
							}}
						>
							<label className="flex flex-1 flex-col gap-1 text-soft">
								or refuse it, because
								<input className="field" value={why} onChange={(event) => setWhy(event.target.value)} />
							</label>
							<button type="submit" className="button-plain pb-1.5" disabled={busy}>
								Refuse
							</button>
						</form>
					</div>
				)
			)}
		</Margin>
	);
}

const WAYS: [OddWord, string][] = [
	["kept", "Keep as an exception"],
	["mended", "Mend in the draft"],
	["left out", "Leave out"],
];

function OfOddity({ one, may, busy, onDo }: OneProps<Oddity>) {
	const [why, setWhy] = useState("");
	return (
		<Margin width={340}>
			<MarginHead kind="fits no pattern" title={one.switch || "the fabric"} mono />
			<p className="mb-3">{one.words}.</p>
			{one.said && (
				<p className="mb-3 text-soft">
					{
						{ kept: "Kept as an exception", mended: "To be mended in the draft", "left out": "Left out" }[
							one.said
						]
					}
					{one.by && ` by ${one.by}`}
					{one.why && `: ${one.why}`}.
				</p>
			)}
			{may && (
				<>
					<label className="mb-2 flex flex-col gap-1 text-soft">
						Why
						<input className="field" value={why} onChange={(event) => setWhy(event.target.value)} />
					</label>
					<div className="flex flex-col items-start gap-1.5">
						{WAYS.map(([word, label]) => (
							<button
								key={word}
								type="button"
								className="button-plain"
								disabled={busy || one.said === word}
								onClick={() => onDo({ do: "odd", keys: [one.key], said: word, why })}
							>
								{label}
							</button>
						))}
					</div>
				</>
			)}
		</Margin>
	);
}

function OfDifference({ one }: { one: Difference }) {
	return (
		<Margin width={340}>
			<MarginHead kind={one.path} title={counted(one.switches.length, "switch", "switches")} />
			<Facts
				rows={[
					["runs", one.after || "nothing"],
					["would be", one.before || "nothing"],
					...(one.within.length ? ([["within", one.within.join(" › ")]] as [string, string][]) : []),
					["to change", one.effect],
				]}
			/>
			<p className="mono mt-3 text-[12px] leading-5">{one.switches.join(", ")}</p>
		</Margin>
	);
}
