/** The sums, live: what an architect would otherwise work out by hand. While a word is typed they are those it would give. */
import type { Sums } from "../../api/client";
import { useOpenFabric } from "../../app/open";
import { number, ratio } from "../../ui/words";
import { useTrial } from "./trial";

export function SumsBar({ open, onOpen }: { open: boolean; onOpen: () => void }) {
	const fabric = useOpenFabric();
	const trial = useTrial();
	const sums = trial?.sums ?? fabric.sums;
	const tried = Boolean(trial?.sums);
	return (
		<section
			aria-label={tried ? "Sums, with what is being typed" : "Sums"}
			className={`flex justify-between gap-4 border-b border-hair pb-2 ${tried ? "tried" : ""}`}
		>
			<Sum
				value={sums.leaf_uplinks_used ? ratio(sums.oversubscription) : "–"}
				small={sums.leaf_uplinks_used ? ": 1" : ""}
				label="oversubscription"
			/>
			<Sum
				value={number(sums.spine_ports_used)}
				small={`of ${number(sums.spine_ports)}`}
				label="spine ports used"
			>
				<Bar used={sums.spine_ports_used} kept={sums.ports[0]?.kept ?? 0} all={sums.spine_ports} />
			</Sum>
			<Sum
				value={number(sums.leaf_uplinks_used)}
				small={sums.leaf_uplinks ? `of ${sums.leaf_uplinks}` : ""}
				label="leaf uplinks used"
			>
				<Bar used={sums.leaf_uplinks_used} kept={0} all={sums.leaf_uplinks} />
			</Sum>
			<Sum
				value={number(sums.host_ports)}
				small={sums.host_speed ? `× ${sums.host_speed}G` : ""}
				label="host ports"
				aside
			/>
			<Sum
				value={percent(sums.bandwidth_left[0] ?? 0)}
				small={`% · ${percent(sums.bandwidth_left[1] ?? 0)} %`}
				label="left, 1 · 2 spines lost"
				aside
			/>
			<Sum value={number(growth(sums))} small={growth(sums) === 1 ? "rack" : "racks"} label="room to grow" />
			<button
				type="button"
				aria-expanded={open}
				className="button-plain self-center whitespace-nowrap"
				onClick={onOpen}
			>
				{open ? "Fewer" : "All sums"}
			</button>
		</section>
	);
}

export const percent = (value: number) => String(Math.round(value * 100));
const growth = (sums: Sums) => Math.floor(sums.grows_by_leaves / sums.leaves_per_rack);

interface SumProps {
	value: string;
	small: string;
	label: string;
	/** Left out where there is little room. */
	aside?: boolean;
	children?: React.ReactNode;
}

function Sum({ value, small, label, aside = false, children }: SumProps) {
	return (
		<div className={aside ? "@max-[640px]:hidden" : ""}>
			<div className="whitespace-nowrap text-[20px] leading-[1.15] font-[640] tracking-tight">
				{value} <small className="text-[12px] font-[450] tracking-normal text-soft">{small}</small>
			</div>
			<div className="label-small whitespace-nowrap">{label}</div>
			{children}
		</div>
	);
}

/** Used, kept for growth that the brief declares (hatched), and free. */
export function Bar({ used, kept, all }: { used: number; kept: number; all: number }) {
	const share = (value: number) => `${all ? Math.min(100, (100 * value) / all) : 0}%`;
	return (
		<div className="mt-1 flex h-1 w-full" style={{ background: "var(--empty)" }}>
			<div className={used > all ? "h-1 bg-madder" : "h-1 bg-walnut"} style={{ width: share(used) }} />
			{kept > 0 && <div className="kept h-1" style={{ width: share(kept) }} />}
		</div>
	);
}
