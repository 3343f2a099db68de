/** The sentences about VRFs and segments: what the fabric carries. */
import type { Brief } from "../../api/client";
import { type Field, FormWord } from "./formword";
import { whole } from "./parse";
import { Word } from "./word";

type Segment = NonNullable<Brief["segments"]>[string];

export function Segments({ brief, all }: { brief: Brief; all: boolean }) {
	const vrfs = Object.keys(brief.vrfs ?? {});
	const segments = Object.entries(brief.segments ?? {});
	return (
		<>
			<p className="mb-1.5">
				{vrfs.length === 0 ? "No VRF yet." : `${vrfs.length} ${vrfs.length === 1 ? "VRF" : "VRFs"}: `}
				{vrfs.map((name, index) => (
					<span key={name}>
						{index > 0 && ", "}
						<VrfWord brief={brief} name={name} />
					</span>
				))}
				{vrfs.length > 0 && ". "}{" "}
				<FormWord
					plain
					title="A VRF"
					verb="Add it"
					fields={[{ name: "name", label: "Name", value: "", placeholder: "tides" }]}
					edits={(values) => [[`vrfs.${values.name?.trim()}`, {}]]}
					note={(values) => `VRF ${values.name}`}
				>
					Add a VRF
				</FormWord>
			</p>
			<ul>
				{segments.map(([name, segment]) => (
					<li key={name}>
						<SegmentWord brief={brief} name={name} segment={segment} /> {where(segment)}
					</li>
				))}
			</ul>
			<p>
				<FormWord
					plain
					title="A segment"
					verb="Add it"
					fields={[
						{ name: "name", label: "Name", value: "", placeholder: "tide-grid" },
						...fieldsOf(brief, { v4: "auto" }),
					]}
					edits={(values) => [[`segments.${values.name?.trim()}`, asSegment(values)]]}
					note={(values) => `segment ${values.name}`}
				>
					Add a segment
				</FormWord>
			</p>
			{(all || brief.overlay.host_mtu !== 9000) && (
				<p>
					Hosts send up to{" "}
					<Word
						path="overlay.host_mtu"
						value={brief.overlay.host_mtu}
						say={(value) => `host MTU ${value}`}
						parse={whole}
					/>{" "}
					bytes.
				</p>
			)}
			{all && (
				<p>
					Gateways answer with{" "}
					<Word
						path="overlay.gateway_mac"
						value={brief.overlay.gateway_mac}
						say={(value) => `gateway MAC ${value}`}
						parse={(text) => text.trim()}
					/>
					; route targets start with{" "}
					<Word
						path="overlay.route_target_as"
						value={brief.overlay.route_target_as}
						say={(value) => `route targets ${value}`}
						parse={whole}
					/>
					.
				</p>
			)}
		</>
	);
}

const where = (segment: Segment) =>
	[
		segment.vrf ? `in ${segment.vrf}` : "not routed",
		segment.racks ? `on ${segment.racks}` : "on every rack",
	].join(", ");

function fieldsOf(brief: Brief, segment: Partial<Segment>): Field[] {
	const vrfs = Object.keys(brief.vrfs ?? {});
	const text = (value: unknown) => (value === null || value === undefined ? "" : String(value));
	return [
		{
			name: "vrf",
			label: "Routed in",
			value: text(segment.vrf ?? (segment.v4 ? vrfs[0] : "")),
			choices: [["", "nothing"], ...vrfs.map((name): [string, string] => [name, name])],
		},
		{ name: "racks", label: "Racks", value: text(segment.racks), placeholder: "every rack" },
		{ name: "v4", label: "IPv4", value: text(segment.v4), placeholder: "auto, 10.72.4.0/24, or none" },
		{ name: "v6", label: "IPv6", value: text(segment.v6), placeholder: "auto, fd72:4::/64, or none" },
		{ name: "vlan", label: "VLAN", value: text(segment.vlan), placeholder: "lowest free" },
		{ name: "vni", label: "VNI", value: text(segment.vni), placeholder: "lowest free" },
		{
			name: "untagged",
			label: "On ports",
			value: segment.untagged ? "yes" : "",
			choices: [
				["", "tagged"],
				["yes", "untagged"],
			],
		},
		{
			name: "ra",
			label: "IPv6 hosts",
			value: segment.ra === "slaac" ? "" : (segment.ra ?? ""),
			choices: [
				["", "make their addresses"],
				["managed", "ask DHCP"],
				["off", "are told nothing"],
			],
		},
	];
}

function asValue(name: string, text: string): unknown {
	if (name === "untagged") return text === "yes" ? true : null;
	const plain = text.trim();
	if (plain === "") return null;
	return (name === "vlan" || name === "vni") && /^\d+$/.test(plain) ? Number(plain) : plain;
}

function asSegment(values: Record<string, string>): Record<string, unknown> {
	const entries = Object.entries(values)
		.filter(([name]) => name !== "name")
		.map(([name, text]): [string, unknown] => [name, asValue(name, text)]);
	return Object.fromEntries(entries.filter(([, value]) => value !== null));
}

function SegmentWord({ brief, name, segment }: { brief: Brief; name: string; segment: Segment }) {
	const fields = fieldsOf(brief, { ...segment, v4: segment.v4 ?? undefined });
	return (
		<FormWord
			title={`Segment ${name}`}
			fields={fields}
			changedPath={`segments.${name}`}
			edits={(values) =>
				fields
					.filter((field) => values[field.name] !== field.value)
					.map((field) => [`segments.${name}.${field.name}`, asValue(field.name, values[field.name] ?? "")])
			}
			note={() => `segment ${name}`}
			remove={{ edits: [[`segments.${name}`, null]], note: `no segment ${name}` }}
		>
			{name}
		</FormWord>
	);
}

function VrfWord({ brief, name }: { brief: Brief; name: string }) {
	const vrf = brief.vrfs?.[name];
	const fields: Field[] = [
		{ name: "vni", label: "L3 VNI", value: vrf?.vni ? String(vrf.vni) : "", placeholder: "lowest free" },
		{ name: "vlan", label: "VLAN", value: vrf?.vlan ? String(vrf.vlan) : "", placeholder: "lowest free" },
	];
	return (
		<FormWord
			title={`VRF ${name}`}
			fields={fields}
			changedPath={`vrfs.${name}`}
			edits={(values) =>
				fields
					.filter((field) => values[field.name] !== field.value)
					.map((field) => [`vrfs.${name}.${field.name}`, asValue(field.name, values[field.name] ?? "")])
			}
			note={() => `VRF ${name}`}
			remove={{ edits: [[`vrfs.${name}`, null]], note: `no VRF ${name}` }}
		>
			{name}
		</FormWord>
	);
}
