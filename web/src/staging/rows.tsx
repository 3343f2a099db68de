/** The roll as rows: by wave, then in the order of the fabric; on a phone each row folds into two lines. */
import { Fragment } from "react";
import { useNarrow } from "../ui/narrow";
import { counted } from "../ui/words";
import { type Line, STEPS } from "./line";
import { Marks } from "./marks";

const WIDE = 54;
const NARROW = 26;

interface Props {
	lines: readonly Line[];
	wave: number;
	chosen: string;
	onChoose: (name: string) => void;
}

export function Rows({ lines, wave, chosen, onChoose }: Props) {
	const narrow = useNarrow(820);
	return (
		<div className="mt-2">
			{!narrow && (
				<div
					aria-hidden
					className="grid grid-cols-[52px_96px_104px_1fr] items-end border-b border-hair pb-1 text-[11px] text-soft"
				>
					<span>rack</span>
					<span>switch</span>
					<span>box</span>
					<span className="flex">
						{STEPS.map((step) => (
							<span key={step} style={{ width: WIDE }} className="leading-tight">
								{step}
							</span>
						))}
						<span>now</span>
					</span>
				</div>
			)}
			<ul aria-label="The roll call">
				{lines.map((one, at) => (
					<Fragment key={one.name}>
						{one.wave > 0 && one.wave !== lines[at - 1]?.wave && (
							<WaveHead
								lines={lines.filter((each) => each.wave === one.wave)}
								number={one.wave}
								open={wave}
							/>
						)}
						<Row one={one} narrow={narrow} chosen={chosen === one.name} onChoose={onChoose} />
					</Fragment>
				))}
			</ul>
		</div>
	);
}

function WaveHead({ lines, number, open }: { lines: readonly Line[]; number: number; open: number }) {
	const through = lines.filter((one) => one.staged?.step === "handed over").length;
	const words =
		through === lines.length
			? `handed over, ${counted(lines.length, "switch", "switches")}`
			: number === open
				? `${through} of ${lines.length} handed over`
				: number > open && open > 0
					? "not yet"
					: counted(lines.length, "switch", "switches");
	return (
		<li className="flex items-center gap-3 pt-2.5 pb-1 text-[12px]">
			<b className="font-[640]">wave {number}</b>
			<span className="text-soft">{words}</span>
			<span aria-hidden className="h-[3px] w-40 bg-hair">
				<span
					className="block h-full bg-moss transition-[width]"
					style={{ width: `${(100 * through) / lines.length}%` }}
				/>
			</span>
		</li>
	);
}

interface RowProps {
	one: Line;
	narrow: boolean;
	chosen: boolean;
	onChoose: (name: string) => void;
}

function Row({ one, narrow, chosen, onChoose }: RowProps) {
	const tone =
		one.staged?.state === "failed"
			? "text-madder"
			: one.staged?.step === "handed over"
				? "text-soft"
				: one.needs
					? "text-weld-ink"
					: "";
	const name = (
		<button
			type="button"
			aria-pressed={chosen}
			className="mono text-left hover:text-indigo"
			onClick={() => onChoose(one.name)}
		>
			{one.name}
		</button>
	);
	if (narrow)
		return (
			<li className={`border-b border-hair/60 py-2 ${chosen ? "bg-chosen" : ""}`}>
				<div className="flex items-baseline gap-3">
					<span className="mono w-10 text-soft">{one.rack}</span>
					<span>{name}</span>
					<span className="mono ml-auto text-soft">{one.box || "—"}</span>
				</div>
				<div className="mt-1">
					<Marks marks={one.marks} wide={NARROW} />
				</div>
				<div className={`mt-0.5 text-[12.5px] ${tone}`}>{one.now}</div>
			</li>
		);
	return (
		<li
			className={`grid min-h-7 grid-cols-[52px_96px_104px_1fr] items-center border-b border-hair/60 ${chosen ? "bg-chosen" : ""}`}
		>
			<span className="mono text-soft">{one.rack}</span>
			<span>{name}</span>
			<span className="mono truncate pr-2 text-soft">{one.box || "—"}</span>
			<span className="flex min-w-0 items-center">
				<Marks marks={one.marks} wide={WIDE} />
				<span className={`min-w-0 truncate text-[11.5px] ${tone}`} title={one.now}>
					{one.now}
				</span>
			</span>
		</li>
	);
}
