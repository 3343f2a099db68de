/** How switches come to Barrio, as sentences whose words are controls, and what a DHCP server is told. */
import { useState } from "react";
import type { Fabric } from "../api/client";
import { type Arrival, useArrival } from "./queries";
import { Software } from "./software";

interface Props {
	fabric: Fabric;
	may: boolean;
	busy: boolean;
	onSay: (ways: Arrival) => void;
	onLeave: () => void;
}

const WORD = "border-b border-indigo-line bg-transparent font-[600] text-indigo";
const RULES: Record<Arrival["admits"] & string, string> = {
	nobody: "Nobody is",
	"serial and place": "Whose serial number is known and who is plugged in where the plan says is",
	serial: "Whose serial number is known is",
};

export function Ways({ fabric, may, busy, onSay, onLeave }: Props) {
	const { data } = useArrival(fabric);
	const [typed, setTyped] = useState<Partial<Arrival>>({});
	if (!data) return null;
	const now: Arrival = { address: data.address, admits: data.admits, lend: data.lend, ...typed };
	const set = (part: Partial<Arrival>) => setTyped({ ...typed, ...part });
	const told = `/api/v1/fabrics/${fabric.name}/staging/dhcp`;
	return (
		<section aria-label="How switches come in" className="mt-3 border-l-4 border-indigo pl-3">
			<p className="max-w-[76ch] text-[15px] leading-[2]">
				Switches reach Barrio at{" "}
				<input
					aria-label="Address for switches"
					className={`${WORD} mono w-[32ch]`}
					value={now.address}
					placeholder="https://barrio.example"
					disabled={!may}
					onChange={(event) => set({ address: event.target.value })}
				/>
				.{" "}
				<select
					aria-label="Who is let in unasked"
					className={`${WORD} max-w-full`}
					value={now.admits}
					disabled={!may}
					onChange={(event) => set({ admits: event.target.value as Arrival["admits"] })}
				>
					{Object.entries(RULES).map(([rule, words]) => (
						<option key={rule} value={rule}>
							{words}
						</option>
					))}
				</select>{" "}
				let in without being asked about. Boxes that nobody knows are lent addresses from{" "}
				<input
					aria-label="Prefix to lend from"
					className={`${WORD} mono w-[18ch]`}
					value={now.lend}
					placeholder="nothing"
					disabled={!may}
					onChange={(event) => set({ lend: event.target.value })}
				/>
				.
			</p>
			<p className="mt-1 flex flex-wrap gap-x-5 gap-y-1">
				{may && (
					<button
						type="button"
						className="button-main"
						disabled={busy || !Object.keys(typed).length}
						onClick={() => onSay(now)}
					>
						Say so
					</button>
				)}
				<button type="button" className="button-plain" onClick={onLeave}>
					Leave it
				</button>
				{data.address && (
					<span className="text-soft">
						What a DHCP server is told:{" "}
						{["kea4", "kea6", "dnsmasq"].map((program) => (
							<a key={program} className="mr-3 text-indigo underline" href={`${told}/${program}`} download>
								{program}
							</a>
						))}
					</span>
				)}
			</p>
			<Software fabric={fabric} may={may} />
		</section>
	);
}
