/** The picture of what runs: leaves as threads across, the tiers above as threads down; whole where Barrio would write what runs. */
import { useMemo } from "react";
import type { Found } from "./queries";

interface Props {
	switches: readonly Found[];
	/** Whether they are drawn, so that nothing of them runs. */
	drawn: boolean;
	chosen: string | undefined;
	onChoose: (name: string) => void;
}

const WIDE = 400;

export function AdoptedWeave({ switches, drawn, chosen, onChoose }: Props) {
	const { down, across } = useMemo(
		() => ({
			down: switches.filter((one) => one.tier !== "leaf"),
			across: switches.filter((one) => one.tier === "leaf"),
		}),
		[switches],
	);
	const row = across.length > 60 ? 6 : across.length > 34 ? 10 : 15;
	const left = 92;
	const gap = Math.min(46, (WIDE - left - 20) / Math.max(1, down.length));
	const high = across.length * row + 30;
	return (
		<svg
			viewBox={`0 0 ${WIDE} ${high}`}
			className="w-full max-w-[620px]"
			role="img"
			aria-label={`${across.length} leaves under ${down.length} switches above them`}
		>
			{down.map((one, place) => (
				<Thread
					key={one.name}
					one={one}
					drawn={drawn}
					chosen={one.name === chosen}
					x1={left + place * gap + gap / 2}
					y1={18}
					x2={left + place * gap + gap / 2}
					y2={high - 6}
					onChoose={onChoose}
				/>
			))}
			{across.map((one, place) => {
				const y = 28 + place * row;
				return (
					<g key={one.name}>
						{row > 8 && (
							<text x={left - 10} y={y + 3.5} textAnchor="end" className="mono fill-soft text-[10.5px]">
								{one.name}
							</text>
						)}
						<Thread
							one={one}
							drawn={drawn}
							chosen={one.name === chosen}
							x1={left}
							y1={y}
							x2={WIDE - 8}
							y2={y}
							onChoose={onChoose}
						/>
					</g>
				);
			})}
		</svg>
	);
}

interface ThreadProps {
	one: Found;
	drawn: boolean;
	chosen: boolean;
	x1: number;
	y1: number;
	x2: number;
	y2: number;
	onChoose: (name: string) => void;
}

/** One switch: whole where its files would be as they run, broken where they differ, dotted where it could not be read. */
function Thread({ one, drawn, chosen, onChoose, ...line }: ThreadProps) {
	const dash = one.unread ? "1.5 5" : one.alike ? undefined : "9 4";
	const tone = one.unread
		? "stroke-soft"
		: one.odd
			? "stroke-madder"
			: one.alike
				? "stroke-indigo"
				: "stroke-weld";
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: the rows of what does not fit say the same to the keyboard
		<g onClick={() => onChoose(one.name)} className="cursor-pointer">
			<title>{`${one.name}: ${stateOf(one, drawn)}`}</title>
			<line {...line} className="stroke-transparent" strokeWidth={9} />
			<line {...line} className={tone} strokeWidth={chosen ? 3.4 : 1.7} strokeDasharray={dash} />
		</g>
	);
}

export const stateOf = (one: Found, drawn = false): string =>
	one.unread
		? "could not be read"
		: drawn
			? "as it is drawn"
			: one.odd
				? "something of it fits no pattern"
				: one.alike
					? "would be written as it runs"
					: "would be written otherwise";
