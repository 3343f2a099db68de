/** What a person must do now, by rack: who knocks and waits, what failed, where a plug is to be moved. */
import { type ReactNode, useState } from "react";
import type { Line } from "./line";
import type { Deed, Knock } from "./queries";

interface Props {
	lines: readonly Line[];
	knocks: readonly Knock[];
	mayUnbox: boolean;
	mayStage: boolean;
	busy: boolean;
	onDo: (deed: Deed) => void;
	onOpen: (name: string) => void;
}

const MOST = 6;

export function Needs({ lines, knocks, mayUnbox, mayStage, busy, onDo, onOpen }: Props) {
	const strangers = knocks.filter((one) => one.state === "waits" && !one.expected);
	const needing = lines.filter((one) => one.needs);
	const shown = needing.slice(0, MOST);
	const asPlanned = needing.filter((one) => one.knock && !one.knock.faults.length);
	if (!needing.length && !strangers.length) return null;
	return (
		<section
			aria-label="What waits for somebody"
			className="mt-3 grid grid-cols-[repeat(auto-fill,minmax(270px,1fr))] gap-x-4 gap-y-3 border-b border-hair pb-3"
		>
			{shown.map((one) =>
				one.staged?.state === "failed" ? (
					<Failed key={one.name} one={one} may={mayStage} busy={busy} onDo={onDo} onOpen={onOpen} />
				) : (
					one.knock && (
						<Knocking
							key={one.knock.key}
							knock={one.knock}
							title={`${one.rack}: ${one.name} knocks`}
							to={one.name}
							may={mayUnbox}
							busy={busy}
							onDo={onDo}
						/>
					)
				),
			)}
			{strangers.slice(0, MOST).map((one) => (
				<Stranger key={one.key} knock={one} lines={lines} may={mayUnbox} busy={busy} onDo={onDo} />
			))}
			{(needing.length > MOST || (mayUnbox && asPlanned.length > 1)) && (
				<p className="text-soft">
					{needing.length > MOST && `and ${needing.length - MOST} more, below. `}
					{mayUnbox && asPlanned.length > 1 && (
						<button
							type="button"
							className="button-plain"
							disabled={busy}
							onClick={() => {
								for (const one of asPlanned)
									if (one.knock) onDo({ do: "admit", knock: one.knock.key, switch: one.name });
							}}
						>
							Let all {asPlanned.length} in that are as expected
						</button>
					)}
				</p>
			)}
		</section>
	);
}

const TASK = "border-l-[3px] pl-3 leading-snug";

function Failed({
	one,
	may,
	busy,
	onDo,
	onOpen,
}: {
	one: Line;
	may: boolean;
	busy: boolean;
	onDo: (deed: Deed) => void;
	onOpen: (name: string) => void;
}) {
	return (
		<div className={`${TASK} border-madder`}>
			<button
				type="button"
				className="text-left font-[640] hover:text-indigo"
				onClick={() => onOpen(one.name)}
			>
				{one.rack}: {one.name}, {one.staged?.step}
			</button>
			<p className="text-soft">{one.now}</p>
			{may && (
				<div className="mt-1 flex gap-4">
					<button
						type="button"
						className="button-plain"
						disabled={busy}
						onClick={() => onDo({ do: "again", switch: one.name })}
					>
						Try it again
					</button>
					<WithReason
						word="Skip it"
						ask="Why is it skipped?"
						onSay={(why) => onDo({ do: "skip", switch: one.name, why })}
					/>
				</div>
			)}
		</div>
	);
}

interface KnockingProps {
	knock: Knock;
	title: string;
	to: string;
	may: boolean;
	busy: boolean;
	onDo: (deed: Deed) => void;
	/** More that is said before it is let in. */
	children?: ReactNode;
}

function Knocking({ knock, title, to, may, busy, onDo, children }: KnockingProps) {
	return (
		<div className={`${TASK} border-weld`}>
			<b className="font-[640]">{title}</b>
			<p className="text-soft">
				{knock.serial || knock.mac} from {knock.address || "somewhere"}
				{knock.faults.length > 0 && <span className="text-madder">; {knock.faults.join("; ")}</span>}
			</p>
			{may && children}
			{may && (
				<div className="mt-1 flex gap-4">
					<button
						type="button"
						className="button-plain"
						disabled={busy || !to}
						onClick={() => onDo({ do: "admit", knock: knock.key, switch: to })}
					>
						Let it in
					</button>
					<WithReason
						word="Refuse it"
						ask="Why is it refused?"
						onSay={(why) => onDo({ do: "refuse", knock: knock.key, why })}
					/>
				</div>
			)}
		</div>
	);
}

function Stranger({
	knock,
	lines,
	may,
	busy,
	onDo,
}: {
	knock: Knock;
	lines: readonly Line[];
	may: boolean;
	busy: boolean;
	onDo: (deed: Deed) => void;
}) {
	const free = lines.filter((one) => !one.box);
	const [to, setTo] = useState("");
	const chosen = to || (free.some((one) => one.name === knock.planned_there) ? knock.planned_there : "");
	return (
		<Knocking
			knock={knock}
			title={`${knock.serial || knock.mac}, which nobody expects, knocks`}
			to={chosen}
			may={may}
			busy={busy}
			onDo={onDo}
		>
			<label className="text-soft">
				as{" "}
				<select
					aria-label={`Which switch ${knock.serial || knock.mac} is`}
					className="mono border-b border-indigo-line bg-transparent text-indigo"
					value={chosen}
					onChange={(event) => setTo(event.target.value)}
				>
					<option value="">…</option>
					{free.map((one) => (
						<option key={one.name}>{one.name}</option>
					))}
				</select>
			</label>
		</Knocking>
	);
}

function WithReason({ word, ask, onSay }: { word: string; ask: string; onSay: (why: string) => void }) {
	const [open, setOpen] = useState(false);
	const [why, setWhy] = useState("");
	if (!open)
		return (
			<button type="button" className="button-plain" onClick={() => setOpen(true)}>
				{word}
			</button>
		);
	return (
		<form
			className="flex gap-2"
			onSubmit={(event) => {
				event.preventDefault();
				if (why.trim()) onSay(why.trim());
			}}
		>
			<input
				aria-label={ask}
				placeholder={ask}
				className="w-[20ch] border-b border-indigo-line bg-transparent"
				value={why}
				onChange={(event) => setWhy(event.target.value)}
			/>
			<button type="submit" className="button-plain" disabled={!why.trim()}>
				{word}
			</button>
		</form>
	);
}
