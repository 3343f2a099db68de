/** Parts that several ways to begin a fabric share. */
import type { ReactNode } from "react";
import type { Sums } from "../api/client";
import { counted, number, ratio } from "../ui/words";

/** What is to be made: the text of a brief, a blank one, or a copy. */
export type Make =
	| { text: string; name?: string }
	| { name: string; title: string }
	| { copyOf: string; name: string };

export interface StartProps {
	make: (wanted: Make) => void;
	busy: boolean;
}

export function Labelled({ label, children }: { label: string; children: ReactNode }) {
	return (
		// biome-ignore lint/a11y/noLabelWithoutControl: the control is within
		<label className="flex flex-col gap-1">
			{label}
			{children}
		</label>
	);
}

/** What a brief comes to, in a line. */
export function Comes({ sums }: { sums: Sums }) {
	return (
		<p className="flex flex-wrap gap-x-5 gap-y-0.5">
			<span>
				<b>{number(sums.switches)}</b> switches
			</span>
			<span>
				<b>{number(sums.cables)}</b> cables
			</span>
			<span>
				<b>{number(sums.host_ports)}</b> host ports
			</span>
			{sums.kinds.length > 0 && (
				<span>
					<b>{ratio(sums.oversubscription)} : 1</b>
				</span>
			)}
			<span>
				<b>{number(sums.power / 1000)}</b> kW
			</span>
			<span>room for {counted(sums.grows_by_leaves, "more leaf", "more leaves")}</span>
		</p>
	);
}

export function Keep({
	name,
	setName,
	ready,
	busy,
	onMake,
	label = "Make the fabric",
}: {
	name: string;
	setName: (name: string) => void;
	ready: boolean;
	busy: boolean;
	onMake: () => void;
	label?: string;
}) {
	return (
		<div className="flex items-end gap-4 pt-1">
			<Labelled label="Name">
				<input
					className="field mono w-52"
					value={name}
					placeholder="marlin"
					onChange={(event) => setName(event.target.value)}
				/>
			</Labelled>
			<button type="button" className="button-main" disabled={!ready || busy} onClick={onMake}>
				{label}
			</button>
		</div>
	);
}
