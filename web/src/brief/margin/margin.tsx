/** The margin of the brief: the crossing, switch or racks that are chosen, or the findings when nothing is. */
import { Link } from "react-router";
import type { Crossing, Fabric, Thread, Weave } from "../../api/client";
import { useChange } from "../../api/edits";
import { useBecause, useCrossing } from "../../api/queries";
import { Chain } from "../../app/chain";
import { MayOnly } from "../../app/only";
import { Facts, Margin, MarginHead } from "../../ui/margin";
import { counted } from "../../ui/words";
import type { Choice } from "../weave/geometry";
import { racksIn } from "../weave/geometry";
import { FaceView } from "./face";
import { Marking } from "./marking";
import { AtRacks } from "./rackedits";

export function BriefMargin({
	fabric,
	weave,
	chosen,
	onChoose,
}: {
	fabric: Fabric;
	weave: Weave | undefined;
	chosen: Choice;
	onChoose: (choice: Choice) => void;
}) {
	const above = weave ? [...weave.spines, ...weave.supers] : [];
	const spine = above.find((one) => one.name === chosen.spine);
	const leaf = weave?.leaves.find((one) => one.name === chosen.leaf);
	const racks = weave ? racksIn(weave, chosen.racks) : [];
	const one = leaf ?? spine;
	return (
		<Margin>
			{weave && racks.length > 0 ? (
				<AtRacks key={chosen.racks} fabric={fabric} weave={weave} racks={racks} onChoose={onChoose} />
			) : spine && leaf ? (
				<AtCrossing fabric={fabric} spine={spine} leaf={leaf} onChoose={onChoose} />
			) : one && weave ? (
				<AtSwitch key={one.key} fabric={fabric} weave={weave} thread={one} onChoose={onChoose} />
			) : (
				<Findings fabric={fabric} />
			)}
		</Margin>
	);
}

function AtCrossing({
	fabric,
	spine,
	leaf,
	onChoose,
}: {
	fabric: Fabric;
	spine: Thread;
	leaf: Thread;
	onChoose: (choice: Choice) => void;
}) {
	const { data } = useCrossing(fabric.name, fabric.version, spine.name, leaf.name);
	return (
		<>
			<MarginHead kind="Crossing" title={`${spine.name} and ${leaf.name}`} />
			{data && <CrossingFacts crossing={data} />}
			{data && (
				<>
					<MayOnly>
						<Marking
							fabric={fabric}
							keys={data.links.map((link) => link.key)}
							state={data.state}
							what="these links"
						/>
					</MayOnly>
					<p className="mb-3 flex items-baseline gap-4">
						{[spine.name, leaf.name].map((name) => (
							<button
								key={name}
								type="button"
								className="button-plain"
								onClick={() => onChoose(name === leaf.name ? { leaf: name } : { spine: name })}
							>
								{name}
							</button>
						))}
					</p>
					<div className="label-small mb-1.5">
						Because · <span className="mono">{data.because_of}</span>
					</div>
					<Chain steps={data.because} />
					<Printed fabric={fabric.name} crossing={data} />
				</>
			)}
		</>
	);
}

function CrossingFacts({ crossing }: { crossing: Crossing }) {
	const { links } = crossing;
	const addresses = links.flatMap((link) => [link.v4, link.v6]).filter(Boolean);
	return (
		<Facts
			rows={[
				["Links", `${links.length} × ${links[0]?.speed}G${crossing.state ? `, ${crossing.state}` : ""}`],
				[
					"Ports",
					<span key="ports" className="mono">
						{crossing.upper} {links.map((link) => link.upper_port).join(", ")}
						<br />
						{crossing.lower} {links.map((link) => link.lower_port).join(", ")}
					</span>,
				],
				[
					"Addresses",
					<span key="addresses" className="mono">
						{addresses.length ? addresses.map((one) => <div key={one}>{one}</div>) : "link-local"}
					</span>,
				],
				[
					"Session",
					<span key="session" className="mono">
						{crossing.upper_asn} – {crossing.lower_asn}
					</span>,
				],
				["Cables", `${links.map((link) => link.label).join(", ")} · ${links[0]?.kind}`],
			]}
		/>
	);
}

function Printed({ fabric, crossing }: { fabric: string; crossing: Crossing }) {
	if (!crossing.printed_on.length) return null;
	return (
		<>
			<div className="label-small mt-1 mb-1">Printed on {counted(crossing.printed_on.length, "line")}</div>
			<ul className="mono">
				{crossing.printed_on.map(({ switch: device, file, line }) => (
					<li key={`${device} ${file} ${line}`} className="truncate leading-6">
						<Link
							className="inline-block min-h-6 hover:text-indigo"
							to={`/f/${fabric}/configs/${device}?file=${file}&line=${line}`}
						>
							{device} {file.split("/").at(-1)} : {line}
						</Link>
					</li>
				))}
			</ul>
		</>
	);
}

const KINDS: Record<string, string> = {
	leaf: "Leaf",
	border: "Border leaf",
	spine: "Spine",
	"super-spine": "Super-spine",
};

interface AtThread {
	fabric: Fabric;
	weave: Weave;
	thread: Thread;
	onChoose: (choice: Choice) => void;
}

function AtSwitch({ fabric, weave, thread, onChoose }: AtThread) {
	const { data } = useBecause(fabric.name, fabric.version, { path: `switches/${thread.name}/asn` });
	const isLeaf = thread.role === "leaf" || thread.role === "border";
	const mono = (value: string | number) => <span className="mono">{value}</span>;
	return (
		<>
			<MarginHead kind={KINDS[thread.role] ?? "Switch"} title={thread.name} />
			<FaceView fabric={fabric} name={thread.name} kind={thread.role} />
			<Facts
				rows={[
					["Model", thread.model],
					["Rack", thread.rack],
					["Loopback", mono(thread.loopback)],
					["ASN", mono(thread.asn)],
					[isLeaf ? "Host ports" : "Ports down", `${thread.used} of ${thread.ports} used`],
				]}
			/>
			<p className="mb-2 flex flex-wrap items-baseline gap-x-4">
				<Link className="button-plain" to={`/f/${fabric.name}/configs/${thread.name}`}>
					Its configuration
				</Link>
				{isLeaf && (
					<button type="button" className="button-plain" onClick={() => onChoose({ racks: thread.rack })}>
						Its rack
					</button>
				)}
			</p>
			<MayOnly>
				<Marking
					fabric={fabric}
					keys={[thread.key]}
					state={thread.state}
					why={thread.why}
					what="this switch"
				/>
				{!isLeaf && <Counted fabric={fabric} thread={thread} onChoose={onChoose} />}
			</MayOnly>
			{!isLeaf && <Above fabric={fabric} weave={weave} thread={thread} onChoose={onChoose} />}
			<div className="label-small mt-3 mb-1.5">
				Because · <span className="mono">{thread.asn}</span>
			</div>
			{data && <Chain steps={data.steps} />}
		</>
	);
}

/** Spines and super-spines are counted: one more comes last, and the last one goes. */
function Counted({ fabric, thread, onChoose }: Omit<AtThread, "weave">) {
	const change = useChange(fabric.name);
	const top = thread.role === "super-spine";
	const path = top ? "super_spines.per_plane" : "spines.count";
	const now = top ? (fabric.brief.super_spines?.per_plane ?? 1) : fabric.brief.spines.count;
	const noun = top ? "super-spines a plane" : "spines";
	const set = (count: number) =>
		change.mutate(
			{ kind: "edit", edits: [[path, count]], note: `${count} ${noun}` },
			{ onSuccess: () => (count < now ? onChoose({}) : undefined) },
		);
	return (
		<p className="mb-3 flex flex-wrap items-baseline gap-x-4">
			<button type="button" className="button-plain" disabled={change.isPending} onClick={() => set(now + 1)}>
				One more
			</button>
			<button
				type="button"
				className="button-plain"
				disabled={now < 2 || change.isPending}
				title="The last one goes; to take this one out alone, mark it out of service"
				onClick={() => set(now - 1)}
			>
				One fewer
			</button>
		</p>
	);
}

/** What a spine is linked to above it, or a super-spine below. */
function Above({ fabric, weave, thread, onChoose }: AtThread) {
	const others =
		thread.role === "super-spine"
			? weave.spines.filter((one) => one.plane === thread.plane)
			: weave.supers.filter((one) => one.plane === thread.plane);
	const first = others[0];
	const { data } = useCrossing(fabric.name, fabric.version, thread.name, first?.name ?? "");
	if (!first) return null;
	return (
		<>
			<div className="label-small mt-2 mb-1">
				{thread.role === "super-spine" ? "Spines of its plane" : "Super-spines of its plane"}
			</div>
			<p className="mb-2 flex flex-wrap gap-x-3">
				{others.slice(0, 12).map((one) => (
					<button
						key={one.key}
						type="button"
						className="button-plain mono"
						onClick={() => onChoose({ spine: one.name })}
					>
						{one.name}
					</button>
				))}
				{others.length > 12 && <span className="text-soft">and {others.length - 12} more</span>}
			</p>
			{data && <CrossingFacts crossing={data} />}
		</>
	);
}

function Findings({ fabric }: { fabric: Fabric }) {
	return (
		<>
			<MarginHead
				kind="Findings"
				title={fabric.findings.length ? counted(fabric.findings.length, "finding") : "Nothing is wrong"}
			/>
			<ul className="space-y-3">
				{fabric.findings.map((finding) => (
					<li key={finding.code + finding.path} className="border-l-4 border-madder pl-2.5">
						{finding.message}
						{finding.line > 0 && (
							<Link
								className="block text-[11.8px] text-soft hover:text-indigo"
								to={`?text=1&line=${finding.line}`}
							>
								brief, line {finding.line}
							</Link>
						)}
					</li>
				))}
			</ul>
			<p className="mt-4 text-soft">
				Choose a crossing, a switch or a rack’s name in the Weave to see what it is and why. Shift and a
				second rack chooses all between.
			</p>
		</>
	);
}
