/** What is done to a switch that is there: it is drained, taken out or carries again; and the page for whoever does it at the rack. */
import { useState } from "react";
import type { Fabric } from "../api/client";
import { counted } from "../ui/words";
import type { Line } from "./line";
import { type Cost, type Deed, type Drain, useCost } from "./queries";

interface Props {
	fabric: Fabric;
	line: Line;
	drain: Drain | undefined;
	may: boolean;
	busy: boolean;
	onDo: (deed: Deed) => void;
}

const WORDS: Record<Drain["state"], string> = {
	told: "on its way:",
	asked: "on its way:",
	drained: "drained:",
	kept: "not drained:",
	returns: "carries again soon:",
};

export function Errands({ fabric, line, drain, may, busy, onDo }: Props) {
	const [at, setAt] = useState<"drain" | "out" | "">("");
	const of = `/api/v1/fabrics/${fabric.name}/staging/errands`;
	const say = (deed: Deed) => {
		onDo(deed);
		setAt("");
	};
	return (
		<section aria-label="At the rack" className="mb-3">
			{drain && (
				<p className="mb-2 border-weld border-l-[3px] pl-2 leading-snug">
					<b className="font-[640]">{WORDS[drain.state]}</b>
					<span className="text-soft">
						{" "}
						{drain.words} ({drain.why}; {drain.author})
					</span>
				</p>
			)}
			<p className="flex flex-wrap gap-x-4 gap-y-1">
				{may && !drain && line.expected.admitted && (
					<button type="button" className="button-plain" onClick={() => setAt(at === "drain" ? "" : "drain")}>
						Drain it
					</button>
				)}
				{may && drain && drain.state !== "returns" && (
					<button
						type="button"
						className="button-plain"
						disabled={busy}
						onClick={() => onDo({ do: "undrain", switch: line.name })}
					>
						Let it carry again
					</button>
				)}
				{may && line.box && (
					<button type="button" className="button-plain" onClick={() => setAt(at === "out" ? "" : "out")}>
						Take its box out
					</button>
				)}
			</p>
			{at === "drain" && <DrainForm fabric={fabric} line={line} busy={busy} onSay={say} />}
			{at === "out" && <OutForm line={line} busy={busy} onSay={say} />}
			<p className="mt-1 text-soft">
				A page to take along:{" "}
				{(["replace", "take-out", "move"] as const).map((one) => (
					<a
						key={one}
						className="mr-3 whitespace-nowrap text-indigo underline"
						href={`${of}/${one}/${line.name}`}
						target="_blank"
						rel="noreferrer"
					>
						{one === "take-out" ? "take out" : one}
					</a>
				))}
			</p>
		</section>
	);
}

interface FormProps {
	line: Line;
	busy: boolean;
	onSay: (deed: Deed) => void;
}

function DrainForm({ fabric, line, busy, onSay }: FormProps & { fabric: Fabric }) {
	const [why, setWhy] = useState("");
	const { data: cost } = useCost(fabric, line.name);
	return (
		<form
			className="mt-2 border-indigo border-l-[3px] pl-3 leading-snug"
			onSubmit={(event) => {
				event.preventDefault();
				onSay({ do: "drain", switch: line.name, why });
			}}
		>
			{cost && <Goes cost={cost} />}
			<label className="mt-2 block">
				Why?
				<input className="field mt-0.5 w-full" value={why} onChange={(event) => setWhy(event.target.value)} />
			</label>
			<button type="submit" className="button-main mt-2" disabled={busy || !why.trim()}>
				Drain {line.name}
			</button>
		</form>
	);
}

/** What goes with a switch, in a few lines. */
function Goes({ cost }: { cost: Cost }) {
	const least = Math.min(...cost.neighbours.map((one) => one.keeps / Math.max(1, one.of)), 1);
	const first = cost.neighbours.find((one) => one.keeps / Math.max(1, one.of) === least);
	return (
		<>
			{cost.cut_off.length > 0 && (
				<p className="text-madder">
					Nobody would reach {cost.cut_off.slice(0, 3).join(", ")}
					{cost.cut_off.length > 3 && ` and ${cost.cut_off.length - 3} more`}.
				</p>
			)}
			<p className={cost.dark.length ? "text-madder" : "text-soft"}>
				{cost.dark.length
					? `${counted(cost.dark.length, "host goes", "hosts go")} dark once it is out: ${cost.dark.slice(0, 4).join(", ")}${cost.dark.length > 4 ? "…" : ""}.`
					: "Every host has another way."}
			</p>
			{first && (
				<p className="text-soft">
					{counted(cost.neighbours.length, "neighbour", "neighbours")}; {first.name} keeps {first.keeps} of{" "}
					{first.of} links this way.
				</p>
			)}
		</>
	);
}

function OutForm({ line, busy, onSay }: FormProps) {
	const [why, setWhy] = useState("");
	const [evenSo, setEvenSo] = useState(false);
	return (
		<form
			className="mt-2 border-madder border-l-[3px] pl-3 leading-snug"
			onSubmit={(event) => {
				event.preventDefault();
				onSay({ do: "out", switch: line.name, why, evenSo });
			}}
		>
			<p className="text-soft">
				{line.box} never comes back by itself. {line.name} keeps its name, numbers, files and cables for
				another box.
			</p>
			<label className="mt-2 block">
				Why?
				<input className="field mt-0.5 w-full" value={why} onChange={(event) => setWhy(event.target.value)} />
			</label>
			<label className="mt-2 flex gap-2">
				<input type="checkbox" checked={evenSo} onChange={(event) => setEvenSo(event.target.checked)} />
				also if it is alive and not drained
			</label>
			<button type="submit" className="button-main mt-2" disabled={busy || !why.trim()}>
				Take {line.box} out
			</button>
		</form>
	);
}
