/** The sentences about cables: their labels and kinds, where racks stand, and what else gets a cable. */
import { Link } from "react-router";
import type { Brief } from "../../api/client";
import { useOpenFabric } from "../../app/open";
import { Word } from "./word";

const KINDS = ["DAC", "AOC", "SR optics", "DR optics"].map((kind) => ({ value: kind, label: kind }));
const PLANS = ["management", "console", "power", "hosts"];
const number = (text: string) => {
	const value = Number(text.replace(",", "."));
	return text.trim() && !Number.isNaN(value) ? value : text;
};

export function Cables({ brief, all }: { brief: Brief; all: boolean }) {
	const { cabling } = brief;
	const placed = brief.floor || Object.keys(brief.halls ?? {}).length > 0;
	return (
		<p>
			Labels start with{" "}
			<Word
				path="cabling.prefix"
				value={cabling.prefix ?? ""}
				say={(value) => `cable labels ${value ?? "after the fabric"}`}
				parse={(text) => text.trim() || null}
			>
				{cabling.prefix ?? brief.fabric.toUpperCase()}
			</Word>
			; between racks{" "}
			<Word
				path="cabling.kind"
				value={cabling.kind}
				say={(value) => (value ? `${value} between racks` : "the cheapest between racks")}
				choices={[
					{ value: null, label: placed ? "the cheapest that reaches" : "AOC, until racks stand" },
					...KINDS,
				]}
			>
				{cabling.kind ?? (placed ? "the cheapest that reaches" : "AOC")}
			</Word>
			{placed ? ". " : ", inside one DAC. "}
			<Places brief={brief} />{" "}
			{(all || cabling.plans.length > 0) && (
				<>
					Cables beside the links:{" "}
					<Word
						path="cabling.plans"
						value={cabling.plans.join(", ")}
						say={(value) => `cables for ${Array.isArray(value) ? value.join(", ") : "links alone"}`}
						parse={(text) => {
							const parts = text.split(/[\s,]+/).filter(Boolean);
							return parts.length ? parts : null;
						}}
						choices={[{ value: PLANS.slice(0, 3), label: "management, console, power" }]}
					>
						{cabling.plans.join(", ") || "none"}
					</Word>
					.{" "}
				</>
			)}
			{all && (
				<>
					<Amount path="cabling.slack" value={cabling.slack} words="m of slack" /> m of slack at each end,
					trays <Amount path="cabling.fill" value={cabling.fill} words="% of a tray" /> % full at the most,{" "}
					<Amount path="cabling.spares" value={cabling.spares} words="% spares" /> % spares.
				</>
			)}
		</p>
	);
}

function Amount({ path, value, words }: { path: string; value: number; words: string }) {
	return <Word path={path} value={value} say={(said) => `${said} ${words}`} parse={number} />;
}

/** Where racks stand: by rule, as drawn, or not said yet. */
function Places({ brief }: { brief: Brief }) {
	const fabric = useOpenFabric();
	const halls = Object.keys(brief.halls ?? {});
	const plan = `/f/${fabric.name}/cabling?draw=1`;
	if (brief.floor)
		return (
			<>
				Racks stand <Amount path="floor.pitch" value={brief.floor.pitch} words="m from rack to rack" /> m
				apart in rows of <Amount path="floor.rows_of" value={brief.floor.rows_of} words="racks in a row" />.
			</>
		);
	return (
		<Link className="button-plain" to={plan}>
			{halls.length ? `Racks stand in ${halls.join(", ")}, as drawn` : "Say where racks stand"}
		</Link>
	);
}
