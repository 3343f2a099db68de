/** A rehearsal as a sentence whose words are controls; below it what the wish takes, leaves out, and cannot prove. */
import { type ReactNode, useId, useState } from "react";
import type { Fabric } from "../api/client";
import { useSwitches } from "../api/queries";
import { useEditions } from "../editions/queries";
import { useSettled } from "../ui/settled";
import { counted } from "../ui/words";
import { Chosen } from "./chosen";
import { usePreview, type Wish } from "./queries";

interface Props {
	fabric: Fabric;
	busy: boolean;
	onBegin: (wish: Wish) => void;
	onLeave: () => void;
}

const CERTAIN = "certain";
const DRILLS: [string, string][] = [
	["", "nothing"],
	["spine", "a spine"],
	["spine,leaf,link", "a spine, a leaf and a link, one after the other"],
	["daemon", "the daemons of a leaf, killed one after the other"],
	["restart", "the power of a leaf"],
	["singles", "every switch and every link, one after the other"],
	[CERTAIN, "what I name:"],
];

const words = (text: string): string[] => text.split(/[\s,]+/).filter(Boolean);

/** A number that somebody types, within its bounds; the least for what is none. */
const bounded = (text: string, least: number, most: number): number =>
	Math.min(most, Math.max(least, Number(text.replace(/\D/g, "")) || least));

type Size = "slice" | "racks" | "whole";

export function Composer({ fabric, busy, onBegin, onLeave }: Props) {
	const editions = useEditions(fabric.name).data ?? [];
	const [edition, setEdition] = useState(0);
	const [size, setSize] = useState<Size>("slice");
	const [most, setMost] = useState("12");
	const [racks, setRacks] = useState("");
	const [spines, setSpines] = useState("2");
	const [ground, setGround] = useState<Wish["ground"]>("best");
	const [taken, setTaken] = useState("");
	const [named, setNamed] = useState("");
	const [minutes, setMinutes] = useState("60");
	const [change, setChange] = useState(false);
	const [machines, setMachines] = useState(1);
	const [asked, setAsked] = useState<readonly string[] | null>(null);
	const wish: Wish = {
		edition,
		whole: size === "whole",
		spines: size === "racks" ? bounded(spines, 1, 64) : null,
		racks: size === "racks" ? words(racks).slice(0, 200) : [],
		most: bounded(most, 3, 500),
		ground,
		questions: asked === null ? ["all"] : [...asked],
		drills: words(taken === CERTAIN ? named : taken),
		minutes: bounded(minutes, 1, 1440),
		change: change && edition > 0,
		machines,
	};
	const switches = useSwitches(fabric.name, fabric.version).data ?? [];
	const settled = useSettled(wish, 250);
	const ready =
		(size !== "racks" || wish.racks.length > 0) && (taken !== CERTAIN || wish.drills?.length !== 0);
	const { data: preview, error } = usePreview(fabric, settled, ready);
	return (
		<main className="min-w-0 flex-1 overflow-y-auto px-9 py-7">
			<h2 className="mb-4 text-[19px] font-bold tracking-tight">What is to be rehearsed?</h2>
			<p className="max-w-[68ch] text-[15.5px] leading-[2.1]">
				Boot{" "}
				<Choice
					label="Which state"
					value={String(edition)}
					onChange={(value) => setEdition(Number(value))}
					options={[
						["0", "the draft"],
						...editions.map((one): [string, string] => [String(one.number), `edition ${one.number}`]),
					]}
				/>
				, namely{" "}
				<Choice
					label="How much of it"
					value={size}
					onChange={(value) => setSize(value as Size)}
					options={[
						["slice", "a slice that answers for the fabric"],
						["racks", "a slice of certain racks"],
						["whole", "the whole fabric"],
					]}
				/>
				{size === "slice" && (
					<>
						{" "}
						of at most{" "}
						<Word
							label="Switches at most"
							width="4.4ch"
							value={most}
							onChange={setMost}
							onLeave={() => setMost(String(wish.most))}
						/>{" "}
						switches
					</>
				)}
				{size === "racks" && (
					<>
						,{" "}
						<Word
							label="Racks"
							width="22ch"
							value={racks}
							onChange={setRacks}
							placeholder={fabric.brief.racks?.[0]?.racks?.split("..")[0] ?? "r01"}
						/>{" "}
						under{" "}
						<Word
							label="Spines of each pod"
							width="3.4ch"
							value={spines}
							onChange={setSpines}
							onLeave={() => setSpines(String(wish.spines))}
						/>{" "}
						{wish.spines === 1 ? "spine" : "spines"}
					</>
				)}
				, on{" "}
				<Choice
					label="Where"
					value={ground ?? "best"}
					onChange={(value) => setGround(value as Wish["ground"])}
					options={[
						["best", "a kernel that has every kind of device"],
						["here", "the very kernel, without what it lacks,"],
						["apart", "a kernel of its own"],
					]}
				/>{" "}
				of{" "}
				<Choice
					label="How many machines"
					value={String(machines)}
					onChange={(value) => setMachines(Number(value))}
					options={[
						["1", "this machine"],
						...[2, 3, 4, 6, 8, 12, 16].map((many): [string, string] => [
							String(many),
							`each of ${many} machines`,
						]),
					]}
				/>
				, and ask it{" "}
				<Choice
					label="Which questions"
					value={asked === null ? "all" : "some"}
					onChange={(value) => setAsked(value === "all" ? null : ["cables", "sessions", "routes"])}
					options={[
						["all", "every question"],
						["some", "only some questions"],
					]}
				/>
				. With flows running, take away{" "}
				<Choice label="What is taken away" value={taken} onChange={setTaken} options={DRILLS} />
				{taken === CERTAIN && (
					<>
						{" "}
						<Word
							label="Switches and links, two at once with +"
							width="24ch"
							value={named}
							placeholder={preview?.losses[0]?.id ?? ""}
							known={preview?.losses.map((one) => one.id)}
							onChange={setNamed}
						/>
					</>
				)}
				{edition > 0 && (
					<>
						, and then{" "}
						<Choice
							label="What becomes of it"
							value={change ? "change" : ""}
							onChange={(value) => setChange(value === "change")}
							options={[
								["", "leave it as it is"],
								["change", "put the draft on it, in the order of its Ripple"],
							]}
						/>
					</>
				)}
				. It ends after{" "}
				<Word
					label="Minutes at most"
					width="4.8ch"
					value={minutes}
					onChange={setMinutes}
					onLeave={() => setMinutes(String(wish.minutes))}
				/>{" "}
				minutes, whatever is left.
			</p>
			{asked !== null && (
				<fieldset className="mt-3 grid max-w-[760px] grid-cols-2 gap-x-6">
					<legend className="label-small">Questions</legend>
					{preview?.questions.map((one) => (
						<label key={one.id} className="flex min-h-6 items-center gap-2">
							<input
								type="checkbox"
								checked={asked.includes(one.id)}
								onChange={(event) =>
									setAsked(
										event.target.checked ? [...asked, one.id] : asked.filter((each) => each !== one.id),
									)
								}
							/>
							{one.title}
						</label>
					))}
				</fieldset>
			)}
			{error ? (
				<p className="mt-5 text-madder" role="alert">
					{error.message}
				</p>
			) : (
				preview && (
					<>
						<div className="mt-5">
							<Chosen switches={switches} names={preview.switches} />
						</div>
						<dl className="mt-2 grid max-w-[760px] grid-cols-[auto_1fr] gap-x-5 border-t border-hair">
							<Line term="boots">
								{counted(preview.switches.length, "switch", "switches")}:{" "}
								<span className="mono">{preview.switches.join(" ")}</span>
							</Line>
							<Line term="plays">
								{[
									preview.of_hosts
										? `${preview.hosts} of ${counted(preview.of_hosts, "host")} that hang there`
										: "no host, since none hangs there",
									...preview.outside,
								].join(", ")}
							</Line>
							{(preview.parts?.length ?? 0) > 1 && (
								<Line term="splits it">
									into {preview.parts?.join(", ")} switches, the first of them here; workers on other machines
									lend the rest
								</Line>
							)}
							{preview.left_out.length > 0 && <Line term="leaves out">{preview.left_out.join("; ")}</Line>}
							{preview.cannot.length > 0 && (
								<Line term="cannot prove">
									<ul>
										{preview.cannot.map((words) => (
											<li key={words}>{words}</li>
										))}
									</ul>
								</Line>
							)}
						</dl>
					</>
				)
			)}
			<p className="mt-6 flex gap-5">
				<button
					type="button"
					className="button-main"
					disabled={busy || !ready || Boolean(error) || asked?.length === 0}
					onClick={() => onBegin(wish)}
				>
					{busy ? "It begins…" : "Rehearse it"}
				</button>
				<button type="button" className="button-plain" onClick={onLeave}>
					Leave it
				</button>
			</p>
		</main>
	);
}

function Line({ term, children }: { term: string; children: ReactNode }) {
	return (
		<div className="col-span-2 grid grid-cols-subgrid border-b border-hair/60 py-1.5">
			<dt className="text-soft">{term}</dt>
			<dd className="min-w-0 break-words">{children}</dd>
		</div>
	);
}

interface ChoiceProps {
	label: string;
	value: string;
	options: [string, string][];
	onChange: (value: string) => void;
}

const LIKE_A_WORD =
	"border-b border-indigo-line bg-transparent font-[600] text-indigo hover:border-indigo focus-visible:outline-offset-2";

function Choice({ label, value, options, onChange }: ChoiceProps) {
	return (
		<select
			aria-label={label}
			className={`${LIKE_A_WORD} appearance-none [field-sizing:content]`}
			value={value}
			onChange={(event) => onChange(event.target.value)}
		>
			{options.map(([id, words]) => (
				<option key={id} value={id}>
					{words}
				</option>
			))}
		</select>
	);
}

interface WordProps {
	label: string;
	value: string;
	width: string;
	placeholder?: string;
	/** What may be said, to choose from. */
	known?: readonly string[];
	onChange: (value: string) => void;
	onLeave?: () => void;
}

function Word({ label, value, width, placeholder, known, onChange, onLeave }: WordProps) {
	const list = useId();
	return (
		<>
			<input
				aria-label={label}
				className={`${LIKE_A_WORD} font-mono text-[14px]`}
				style={{ width }}
				value={value}
				placeholder={placeholder}
				list={known ? list : undefined}
				onChange={(event) => onChange(event.target.value)}
				onBlur={onLeave}
			/>
			{known && (
				<datalist id={list}>
					{known.map((one) => (
						<option key={one} value={one} />
					))}
				</datalist>
			)}
		</>
	);
}
