/** Every sum: ports by tier, kinds of leaf, pods, what losses leave, growth, racks, cables and tables. */
import type { ReactNode } from "react";
import type { Sums } from "../../api/client";
import { useOpenFabric } from "../../app/open";
import { counted, number, ratio } from "../../ui/words";
import { Bar, percent } from "./sums";
import { useTrial } from "./trial";

export function AllSums() {
	const fabric = useOpenFabric();
	const sums = useTrial()?.sums ?? fabric.sums;
	return (
		<section
			aria-label="All sums"
			// biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls can be reached by keyboard
			tabIndex={0}
			className="min-h-0 flex-1 overflow-y-auto pt-3 pb-6 [columns:2] [column-gap:34px]"
		>
			<Ports sums={sums} />
			<Kinds sums={sums} />
			<Losses sums={sums} />
			<Growth sums={sums} />
			<Racks sums={sums} />
			<Tables sums={sums} />
			<Part title="Numbers held">
				{fabric.numbers.map((use) => (
					<Line
						key={use.use}
						term={`${use.use.replace(".", ", ")} from ${use.pool}`}
						value={number(use.needed)}
					/>
				))}
			</Part>
		</section>
	);
}

function Part({ title, children }: { title: string; children: ReactNode }) {
	return (
		<div className="mb-5 break-inside-avoid">
			<h2 className="mb-1 text-[11px] font-semibold tracking-wide text-soft">{title}</h2>
			<dl>{children}</dl>
		</div>
	);
}

function Line({ term, value, children }: { term: ReactNode; value: ReactNode; children?: ReactNode }) {
	return (
		<div className="grid grid-cols-[1fr_auto] items-baseline gap-x-4 border-b border-hair/60 py-[3px]">
			<dt className="min-w-0 text-soft">{term}</dt>
			<dd className="text-right whitespace-nowrap">{value}</dd>
			{children && <dd className="col-span-2">{children}</dd>}
		</div>
	);
}

function Ports({ sums }: { sums: Sums }) {
	return (
		<Part title="Ports, on the fullest switch of each tier">
			{sums.ports.map((use) => (
				<Line
					key={use.what}
					term={use.what}
					value={
						<>
							<b>{use.used}</b> of {use.there}
							<span className="text-soft">
								{use.kept ? `, ${use.kept} kept` : ""}
								{use.reserved ? `, ${use.reserved} reserved` : ""}
							</span>
						</>
					}
				>
					<Bar used={use.used} kept={use.kept} all={use.there} />
				</Line>
			))}
		</Part>
	);
}

function Kinds({ sums }: { sums: Sums }) {
	return (
		<Part title="Kinds of leaf">
			{sums.kinds.map((kind) => (
				<Line
					key={kind.kind + kind.racks}
					term={
						<>
							<b className="text-ink">{kind.kind}</b> {kind.racks}, {number(kind.leaves)} × {kind.model}
							<br />
							{kind.host_ports / Math.max(1, kind.leaves)} × {kind.host_speed}G to hosts, {kind.uplinks} ×{" "}
							{kind.uplink_speed}G up, ECMP {kind.ecmp}
						</>
					}
					value={<b>{ratio(kind.oversubscription)} : 1</b>}
				/>
			))}
			{sums.by_pod.map((pod) => (
				<Line
					key={pod.pods}
					term={`${pod.count === 1 ? "pod" : `${pod.count} pods`} ${pod.pods}, ${counted(pod.leaves, "leaf", "leaves")} each, to the super-spines`}
					value={<b>{ratio(pod.oversubscription)} : 1</b>}
				/>
			))}
			<Line term="bisection bandwidth" value={`${number(sums.bisection / 1000)} Tbit/s`} />
		</Part>
	);
}

function Losses({ sums }: { sums: Sums }) {
	return (
		<Part title="Bandwidth left between two leaves, with switches above lost">
			{sums.lost.map((loss) => (
				<Line
					key={loss.lost}
					term={
						<>
							{loss.lost === 1 ? "one lost" : "two lost"}: worst is {loss.names}, of {number(loss.choices)}{" "}
							{loss.choices === 1 ? "choice" : "choices"}
						</>
					}
					value={
						<>
							<b>{percent(loss.worst_bandwidth)} %</b>, {percent(loss.worst_paths)} % of paths
						</>
					}
				/>
			))}
		</Part>
	);
}

function Growth({ sums }: { sums: Sums }) {
	const most = sums.largest;
	return (
		<Part title="The largest it can grow to">
			<Line term="leaves" value={`${number(sums.leaves)} of ${number(most.leaves)}`}>
				<Bar used={sums.leaves} kept={0} all={most.leaves} />
			</Line>
			<Line term="host ports" value={`${number(sums.host_ports)} of ${number(most.hosts)}`} />
			{sums.tiers === 3 && <Line term="pods" value={`${sums.pods} of ${most.pods}`} />}
			<Line term="spines, by the leaves’ uplinks" value={`up to ${most.spines}`} />
			<div className="pt-1 text-soft">
				<dt className="inline">Stopped by</dt> <dd className="inline">{most.stopped_by}.</dd>
			</div>
		</Part>
	);
}

function Racks({ sums }: { sums: Sums }) {
	return (
		<Part title="Racks and cables">
			<Line term={`${sums.racks} racks, ${sums.switches} switches`} value={`${number(sums.units)} U`} />
			<Line term="power" value={`${number(sums.power / 1000)} kW`} />
			<Line term={`fullest rack, ${sums.fullest_rack}`} value={`${sums.fullest_units} of 42 U`} />
			<Line term={`hottest rack, ${sums.hottest_rack}`} value={`${number(sums.hottest_power)} W`} />
			<Line term="heaviest rack" value={`${number(sums.heaviest_weight)} kg`} />
			{Object.entries(sums.cables_by_kind).map(([kind, count]) => (
				<Line key={kind} term={kind} value={counted(count, "cable")} />
			))}
		</Part>
	);
}

function Tables({ sums }: { sums: Sums }) {
	return (
		<Part title="Forwarding tables of the leaves">
			{sums.tables.flatMap((table) => [
				<Line
					key={`${table.model} routes`}
					term={`${table.model}, routes`}
					value={`${number(table.routes)} of ${number(table.routes_there)}`}
				>
					<Bar used={table.routes} kept={0} all={table.routes_there} />
				</Line>,
				<Line
					key={`${table.model} vnis`}
					term="VNIs · ECMP width"
					value={`${table.vnis} of ${number(table.vnis_there)} · ${table.ecmp} of ${table.ecmp_there}`}
				/>,
			])}
		</Part>
	);
}
