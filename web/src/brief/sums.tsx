/** The sums, live: what an architect would otherwise work out by hand. */
import type { Sums } from "../api/client";
import { useOpenFabric } from "../ui/street";
import { number, ratio } from "../ui/words";

export function SumsBar() {
	const { sums } = useOpenFabric();
	return (
		<section aria-label="Sums" className="flex justify-between gap-4 border-b border-hair pb-2">
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
				<Bar used={sums.spine_ports_used} all={sums.spine_ports} />
			</Sum>
			<Sum
				value={number(sums.leaf_uplinks_used)}
				small={sums.leaf_uplinks ? `of ${sums.leaf_uplinks}` : ""}
				label="leaf uplinks used"
			>
				<Bar used={sums.leaf_uplinks_used} all={sums.leaf_uplinks} />
			</Sum>
			<Sum
				value={number(sums.host_ports)}
				small={sums.host_speed ? `× ${sums.host_speed}G` : ""}
				label="host ports"
			/>
			<Sum
				value={percent(sums.bandwidth_left[0] ?? 0)}
				small={`% · ${percent(sums.bandwidth_left[1] ?? 0)} %`}
				label="bandwidth, 1 · 2 spines lost"
			/>
			<Sum
				value={number(growth(sums))}
				small={growth(sums) === 1 ? "rack" : "racks"}
				label="room on the spines"
			/>
		</section>
	);
}

const percent = (value: number) => String(Math.round(value * 100));
const growth = (sums: Sums) => Math.floor(sums.grows_by_leaves / sums.leaves_per_rack);

interface SumProps {
	value: string;
	small: string;
	label: string;
	children?: React.ReactNode;
}

function Sum({ value, small, label, children }: SumProps) {
	return (
		<div>
			<div className="whitespace-nowrap text-[20px] leading-[1.15] font-[640] tracking-tight">
				{value} <small className="text-[12px] font-[450] tracking-normal text-soft">{small}</small>
			</div>
			<div className="label-small whitespace-nowrap">{label}</div>
			{children}
		</div>
	);
}

function Bar({ used, all }: { used: number; all: number }) {
	return (
		<div className="mt-1 h-1 w-full" style={{ background: "var(--empty)" }}>
			<div className="h-1 bg-walnut" style={{ width: `${all ? Math.min(100, (100 * used) / all) : 0}%` }} />
		</div>
	);
}
