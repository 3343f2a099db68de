/** One cell of the Ladder: what a rung says of a setting. Solid where it holds, struck where it is beaten, with who has it instead. */
import { counted } from "../ui/words";
import type { RungSaid } from "./queries";

export function Says({ said }: { said: RungSaid }) {
	const beaten = Object.entries(said.beaten);
	const lost = said.says !== "" && said.wins === 0;
	return (
		<>
			{said.says && (
				<span
					className={`line-clamp-3 break-words ${lost ? "text-soft line-through decoration-madder" : "font-[560]"}`}
				>
					{said.adds && <span className="text-indigo">and </span>}
					{said.says}
				</span>
			)}
			{said.hold && <b className="block text-[11px] text-indigo">held</b>}
			{said.says && beaten.length > 0 && (
				<small className="block text-[11px] leading-tight text-soft">
					{beaten.map(([rung, count]) => `${rung} on ${count}`).join(", ")}
				</small>
			)}
			{said.says && said.wins > 0 && said.wins < said.on && (
				<small className="block text-[11px] leading-tight text-soft">
					holds for {counted(said.wins, "switch", "switches")}
				</small>
			)}
		</>
	);
}

export const rungName = (rung: string) =>
	({ barrio: "Barrio’s own", office: "the office", fabric: "the whole fabric" })[rung] ?? rung;
