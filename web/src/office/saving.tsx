/** What is other than saved, what it does to every fabric, and saving it with a reason. */
import { useEffect, useState } from "react";
import type { Fault } from "../api/client";
import { Refusal } from "../app/refusal";
import { counted } from "../ui/words";
import type { Copy } from "./copy";
import { type Office, useEffects, useSaveOffice } from "./queries";

interface Props {
	office: Office;
	copy: Copy;
	dirty: string[];
	onTake: (copy: Copy) => void;
	/** What is wrong with the files, each with its file and line. */
	onFaults: (faults: readonly Fault[]) => void;
}

const NONE: readonly Fault[] = [];

export function Saving({ office, copy, dirty, onTake, onFaults }: Props) {
	const [note, setNote] = useState("");
	const effects = useEffects();
	const save = useSaveOffice((saved) => {
		effects.reset();
		setNote("");
		onTake({ number: saved.number, files: saved.files });
	});
	const failure = save.error ?? effects.error;
	const faults = failure?.problem.faults ?? NONE;
	useEffect(() => onFaults(faults), [faults, onFaults]);
	const outdated = copy.number !== office.number;
	const seen = effects.data && effects.variables === copy.files ? effects.data : undefined;
	const drop = () => {
		effects.reset();
		save.reset();
		onTake({ number: office.number, files: office.files });
	};
	return (
		<div className="border-b border-hair px-4 py-2">
			<div className="flex items-center gap-4">
				<span className="text-weld-ink">
					{counted(dirty.length, "file")} not saved{outdated && ", made from an older edition"}
				</span>
				{seen && !seen.some((one) => one.refusal) ? (
					<>
						<input
							className="field min-w-0 flex-1"
							aria-label="Why"
							placeholder="why, in a few words"
							value={note}
							onChange={(event) => setNote(event.target.value)}
						/>
						<button
							type="button"
							className="button-main"
							disabled={save.isPending || outdated}
							onClick={() => save.mutate({ number: copy.number, files: copy.files, note })}
						>
							Save edition {office.number + 1}
						</button>
					</>
				) : (
					<button
						type="button"
						className="button-main ml-auto"
						disabled={effects.isPending}
						onClick={() => {
							save.reset();
							effects.mutate(copy.files);
						}}
					>
						See what it does
					</button>
				)}
				<button type="button" className="button-plain" onClick={drop}>
					Drop the changes
				</button>
			</div>
			{failure && <Refusal failure={failure} />}
			{seen && (
				<ul className="mt-1 flex flex-wrap gap-x-6">
					{seen.map((one) => (
						<li key={one.fabric} className={one.refusal ? "text-madder" : ""}>
							<b>{one.fabric}</b>:{" "}
							{one.refusal ||
								(one.switches
									? `${counted(one.switches, "switch", "switches")} get other files`
									: "nothing moves")}
						</li>
					))}
				</ul>
			)}
		</div>
	);
}
