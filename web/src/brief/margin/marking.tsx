/** Marking something out of service or planned for later, with the reason, and back. */
import { useState } from "react";
import type { Fabric } from "../../api/client";
import { useChange } from "../../api/edits";

interface Props {
	fabric: Fabric;
	keys: string[];
	state: string;
	why?: string;
	what: string;
}

export function Marking({ fabric, keys, state, why = "", what }: Props) {
	const change = useChange(fabric.name);
	const [asked, setAsked] = useState<"out_of_service" | "planned_later" | null>(null);
	const [reason, setReason] = useState("");
	const mark = (next: "out_of_service" | "planned_later" | "") =>
		change.mutate(
			{ kind: "reshape", action: "mark", keys, state: next, why: reason.trim() },
			{ onSuccess: () => setAsked(null) },
		);
	if (asked)
		return (
			<form
				className="mb-3"
				onSubmit={(event) => {
					event.preventDefault();
					mark(asked);
				}}
			>
				<input
					// biome-ignore lint/a11y/noAutofocus: it was asked for
					autoFocus
					className="field mb-1.5 w-full"
					aria-label={`Why ${what} ${what.startsWith("these") ? "are" : "is"} ${asked.replaceAll("_", " ")}`}
					placeholder="Why, in a few words"
					value={reason}
					onChange={(event) => setReason(event.target.value)}
				/>
				<div className="flex gap-4">
					<button type="submit" className="button-main" disabled={change.isPending}>
						{asked === "out_of_service" ? "Take out of service" : "Plan for later"}
					</button>
					<button type="button" className="button-plain" onClick={() => setAsked(null)}>
						Cancel
					</button>
				</div>
			</form>
		);
	return (
		<p className="mb-3 flex flex-wrap gap-x-4 gap-y-1">
			{state ? (
				<>
					<span className="border-madder border-l-4 pl-2">
						{state}
						{why && `: ${why}`}
					</span>
					<button type="button" className="button-plain" disabled={change.isPending} onClick={() => mark("")}>
						Back in service
					</button>
				</>
			) : (
				<>
					<button type="button" className="button-plain" onClick={() => setAsked("out_of_service")}>
						Out of service
					</button>
					<button type="button" className="button-plain" onClick={() => setAsked("planned_later")}>
						Planned later
					</button>
				</>
			)}
		</p>
	);
}
