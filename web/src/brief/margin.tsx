/** The margin of the brief: the crossing, leaf or spine that is chosen, or the findings when nothing is. */
import { Link } from "react-router";
import type { Crossing, Fabric, LeafThread, SpineThread, Weave } from "../api/client";
import { useBecause, useCrossing } from "../api/queries";
import { Chain } from "../ui/chain";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { counted } from "../ui/words";
import type { Choice } from "./weave";

export function BriefMargin({
	fabric,
	weave,
	chosen,
}: {
	fabric: Fabric;
	weave: Weave | undefined;
	chosen: Choice;
}) {
	const spine = weave?.spines.find((one) => one.name === chosen.spine);
	const leaf = weave?.leaves.find((one) => one.name === chosen.leaf);
	return (
		<Margin>
			{spine && leaf ? (
				<AtCrossing fabric={fabric} spine={spine.name} leaf={leaf.name} />
			) : leaf ? (
				<AtSwitch fabric={fabric} thread={leaf} kind={leaf.role === "border" ? "Border leaf" : "Leaf"} />
			) : spine ? (
				<AtSwitch fabric={fabric} thread={spine} kind="Spine" />
			) : (
				<Findings fabric={fabric} />
			)}
		</Margin>
	);
}

function AtCrossing({ fabric, spine, leaf }: { fabric: Fabric; spine: string; leaf: string }) {
	const { data } = useCrossing(fabric.name, fabric.version, spine, leaf);
	return (
		<>
			<MarginHead kind="Crossing" title={`${spine} and ${leaf}`} />
			{data && <CrossingFacts crossing={data} />}
			{data && (
				<>
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
				["Links", `${links.length} × ${links[0]?.speed}G`],
				[
					"Ports",
					<span key="ports" className="mono">
						{crossing.spine} {links.map((link) => link.spine_port).join(", ")}
						<br />
						{crossing.leaf} {links.map((link) => link.leaf_port).join(", ")}
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
						{crossing.spine_asn} – {crossing.leaf_asn}
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

function AtSwitch({
	fabric,
	thread,
	kind,
}: {
	fabric: Fabric;
	thread: LeafThread | SpineThread;
	kind: string;
}) {
	const { data } = useBecause(fabric.name, fabric.version, { path: `switches/${thread.name}/asn` });
	const ports = "ports" in thread ? thread.ports : null;
	return (
		<>
			<MarginHead kind={kind} title={thread.name} />
			<Facts
				rows={[
					["Model", thread.model],
					["Rack", thread.rack],
					[
						"Loopback",
						<span key="loopback" className="mono">
							{thread.loopback}
						</span>,
					],
					[
						"ASN",
						<span key="asn" className="mono">
							{thread.asn}
						</span>,
					],
					ports
						? ["Ports", `${ports.filter(Boolean).length} of ${ports.length} used`]
						: ["Host ports", String((thread as LeafThread).host_ports)],
				]}
			/>
			<p className="mb-3">
				<Link className="button-plain" to={`/f/${fabric.name}/configs/${thread.name}`}>
					Its configuration
				</Link>
			</p>
			<div className="label-small mb-1.5">
				Because · <span className="mono">{thread.asn}</span>
			</div>
			{data && <Chain steps={data.steps} />}
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
				Choose a crossing, a leaf or a spine in the Weave to see what it is and why.
			</p>
		</>
	);
}
