/** The sentences about segments: what the fabric carries. */
import type { Brief } from "../../api/client";
import { type Field, FormWord } from "./formword";
import { whole } from "./parse";
import { Vrfs } from "./vrfs";
import { Word } from "./word";

type Segment = NonNullable<Brief["segments"]>[string];

export function Segments({ brief, all }: { brief: Brief; all: boolean }) {
	const segments = Object.entries(brief.segments ?? {});
	return (
		<>
			<Vrfs brief={brief} />
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
		...(segment.secondary?.length ? [`${segment.secondary.join(", ")} too`] : []),
		...(segment.scope === "leaf" ? ["a VLAN of each rack's own"] : []),
		...(segment.mtu ? [`${segment.mtu} bytes at most`] : []),
		...(segment.relay ? [`DHCP from ${segment.relay.servers.join(", ")}`] : []),
		...(segment.multicast === "snoop" ? ["groups to those who joined"] : []),
		...(segment.state !== "active" ? [segment.state] : []),
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
		{
			name: "scope",
			label: "Its VLAN is",
			value: segment.scope === "leaf" ? "leaf" : "",
			choices: [
				["", "the same everywhere"],
				["leaf", "each rack's own"],
			],
		},
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
		{
			name: "secondary",
			label: "Prefixes beside",
			value: (segment.secondary ?? []).join(", "),
			placeholder: "none",
		},
		{
			name: "relay",
			label: "DHCP servers",
			value: (segment.relay?.servers ?? []).join(", "),
			placeholder: "none elsewhere",
		},
		{ name: "mtu", label: "MTU", value: text(segment.mtu), placeholder: "the fabric's for hosts" },
		{
			name: "multicast",
			label: "Groups reach",
			value: segment.multicast === "snoop" ? "snoop" : "",
			choices: [
				["", "everybody in it"],
				["snoop", "those who joined"],
			],
		},
		{
			name: "state",
			label: "It is",
			value: segment.state === "active" ? "" : (segment.state ?? ""),
			choices: [
				["", "active"],
				["paused", "paused"],
				["planned later", "planned later"],
			],
		},
	];
}

function asValue(name: string, text: string): unknown {
	if (name === "untagged") return text === "yes" ? true : null;
	const plain = text.trim();
	if (plain === "") return null;
	const list = plain.split(/[\s,]+/).filter(Boolean);
	if (name === "secondary") return list;
	if (name === "relay") return { servers: list };
	return ["vlan", "vni", "mtu"].includes(name) && /^\d+$/.test(plain) ? Number(plain) : plain;
}

function asSegment(values: Record<string, string>): Record<string, unknown> {
	const entries = Object.entries(values)
		.filter(([name]) => name !== "name")
		.map(([name, text]): [string, unknown] => [name, asValue(name, text)]);
	return Object.fromEntries(entries.filter(([, value]) => value !== null));
}

/** Servers are changed alone, so that what else the brief says of the relay stays. */
function editOf(name: string, field: string, value: unknown): [string, unknown] {
	if (field === "relay" && value !== null)
		return [`segments.${name}.relay.servers`, (value as { servers: string[] }).servers];
	return [`segments.${name}.${field}`, value];
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
					.map((field) => editOf(name, field.name, asValue(field.name, values[field.name] ?? "")))
			}
			note={() => `segment ${name}`}
			remove={{ edits: [[`segments.${name}`, null]], note: `no segment ${name}` }}
		>
			{name}
		</FormWord>
	);
}
