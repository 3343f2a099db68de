/** The sentences about systems outside the fabric, and about what is marked out of service or planned later. */
import type { Brief } from "../../api/client";
import { useWeave } from "../../api/queries";
import { useOpenFabric } from "../../app/open";
import { FormWord } from "./formword";

type System = NonNullable<Brief["outside"]>[string];

const KINDS: [string, string][] = ["router", "firewall", "load balancer", "fabric"].map((kind) => [
	kind,
	kind,
]);

const DEFAULTS: [string, string][] = [
	["none", "neither way"],
	["in", "from it"],
	["out", "to it"],
];

const prefixesOf = (text: string) => {
	const prefixes = text.split(/[\s,]+/).filter(Boolean);
	return prefixes.length ? prefixes : null;
};

/** What passes between the fabric and a system, in words. */
const policy = (system: System) => {
	const told = system.accept.length ? `It may tell ${system.accept.join(", ")}` : "It may tell nothing";
	const route = { none: "", in: ", and gives the default route", out: ", and is given a default route" };
	return `${told}${route[system.default]}.`;
};

export function Outside({ brief }: { brief: Brief }) {
	const systems = Object.entries(brief.outside ?? {});
	const vrfs = Object.keys(brief.vrfs ?? {});
	return (
		<>
			{systems.map(([name, system]) => (
				<p key={name} className="mb-1">
					<SystemWord name={name} system={system} />, {system.kind}, AS {system.asn}, at{" "}
					{system.links.map((link, index) => (
						<span key={link.switch + link.port}>
							{index > 0 && "; "}
							<LinkWord brief={brief} name={name} system={system} index={index} />
						</span>
					))}
					. {policy(system)}{" "}
					<LinkWord brief={brief} name={name} system={system} index={system.links.length} />
				</p>
			))}
			<p>
				{vrfs.length === 0 ? (
					<span className="text-soft">Systems outside are linked per VRF; add a VRF first.</span>
				) : (
					<NewSystem brief={brief} />
				)}
			</p>
		</>
	);
}

function SystemWord({ name, system }: { name: string; system: System }) {
	return (
		<FormWord
			title={name}
			changedPath={`outside.${name}`}
			fields={[
				{ name: "kind", label: "It is a", value: system.kind, choices: KINDS },
				{ name: "asn", label: "ASN", value: String(system.asn) },
				{
					name: "accept",
					label: "It may tell",
					value: system.accept.join(", "),
					placeholder: "prefixes, such as 10.99.0.0/16",
				},
				{ name: "default", label: "Default route", value: system.default, choices: DEFAULTS },
				{ name: "most", label: "Most prefixes", value: String(system.max_prefixes) },
			]}
			edits={(values) => [
				[`outside.${name}.kind`, values.kind],
				[`outside.${name}.asn`, Number(values.asn)],
				[`outside.${name}.accept`, prefixesOf(values.accept ?? "")],
				[`outside.${name}.default`, values.default === "none" ? null : values.default],
				[`outside.${name}.max_prefixes`, Number(values.most) === 12000 ? null : Number(values.most)],
			]}
			note={() => `${name} outside`}
			remove={{ edits: [[`outside.${name}`, null]], note: `no ${name}` }}
		>
			{name}
		</FormWord>
	);
}

function useBorders(): [string, string][] {
	const fabric = useOpenFabric();
	const leaves = useWeave(fabric.name, fabric.version).data?.leaves ?? [];
	return leaves.filter((one) => one.role === "border").map((one) => [one.key, one.name]);
}

const linkFields = (brief: Brief, borders: [string, string][], link?: System["links"][number]) => {
	const [vrf, carried] = Object.entries(link?.vrfs ?? {})[0] ?? [];
	return [
		{ name: "switch", label: "At", value: link?.switch ?? borders[0]?.[0] ?? "", choices: borders },
		{ name: "port", label: "Port", value: link?.port ?? "", placeholder: "h48" },
		{ name: "far", label: "Its port", value: link?.far_port ?? "", placeholder: "e1/1" },
		{
			name: "vrf",
			label: "VRF",
			value: vrf ?? Object.keys(brief.vrfs ?? {})[0] ?? "",
			choices: Object.keys(brief.vrfs ?? {}).map((one): [string, string] => [one, one]),
		},
		{
			name: "vlan",
			label: "Tag",
			value: carried?.vlan ? String(carried.vlan) : "",
			placeholder: "none, untagged",
		},
		{
			name: "v4",
			label: "IPv4",
			value: carried?.v4 ?? (link ? "" : "auto"),
			placeholder: "auto, or a prefix",
		},
		{ name: "v6", label: "IPv6", value: carried?.v6 ?? "", placeholder: "auto, or a prefix" },
	];
};

const asLink = (values: Record<string, string>, before?: System["links"][number]) => ({
	switch: values.switch ?? "",
	port: values.port?.trim() ?? "",
	...(values.far?.trim() ? { far_port: values.far.trim() } : {}),
	...(before?.speed ? { speed: before.speed } : {}),
	vrfs: {
		...Object.fromEntries(Object.entries(before?.vrfs ?? {}).slice(1)),
		[values.vrf ?? ""]: {
			...(values.vlan?.trim() ? { vlan: Number(values.vlan) } : {}),
			v4: values.v4?.trim() || null,
			...(values.v6?.trim() ? { v6: values.v6.trim() } : {}),
		},
	},
});

function LinkWord({
	brief,
	name,
	system,
	index,
}: {
	brief: Brief;
	name: string;
	system: System;
	index: number;
}) {
	const borders = useBorders();
	const link = system.links[index];
	const path = `outside.${name}.links[${index}]`;
	const vrfs = link ? Object.keys(link.vrfs).join(", ") : "";
	return (
		<FormWord
			plain={!link}
			title={link ? `${name}, link ${index + 1}` : `A link to ${name}`}
			verb={link ? "Change it" : "Add it"}
			changedPath={link ? path : undefined}
			fields={linkFields(brief, borders, link)}
			edits={(values) => [[path, asLink(values, link)]]}
			note={(values) => `${name} at ${values.switch} ${values.port}`}
			remove={
				link && system.links.length > 1
					? { edits: [[path, null]], note: `one link less to ${name}` }
					: undefined
			}
		>
			{link ? `${link.switch.replace(/^leaf\//, "")} ${link.port} in ${vrfs}` : "Add a link"}
		</FormWord>
	);
}

function NewSystem({ brief }: { brief: Brief }) {
	const borders = useBorders();
	if (!borders.length)
		return (
			<span className="text-soft">
				Systems outside are linked to border leaves; give racks that role first.
			</span>
		);
	return (
		<FormWord
			plain
			title="A system outside"
			verb="Add it"
			fields={[
				{ name: "name", label: "Name", value: "", placeholder: "harbour-router" },
				{ name: "kind", label: "It is a", value: "router", choices: KINDS },
				{ name: "asn", label: "ASN", value: "", placeholder: "64600" },
				...linkFields(brief, borders),
			]}
			edits={(values) => [
				[
					`outside.${values.name?.trim()}`,
					{ kind: values.kind, asn: Number(values.asn), links: [asLink(values)] },
				],
			]}
			note={(values) => `${values.name} outside`}
		>
			Add a system outside
		</FormWord>
	);
}

/** What is out of service or planned for later, each a word that opens its reason. */
export function Marked({ brief }: { brief: Brief }) {
	const marks = [
		...Object.entries(brief.out_of_service ?? {}).map((entry) => ["out_of_service", ...entry] as const),
		...Object.entries(brief.planned_later ?? {}).map((entry) => ["planned_later", ...entry] as const),
	];
	return (
		<ul>
			{marks.map(([field, key, why]) => (
				<li key={field + key}>
					<FormWord
						title={key}
						changedPath={`${field}."${key}"`}
						fields={[{ name: "why", label: "Why", value: why }]}
						edits={(values) => [[`${field}."${key}"`, values.why ?? ""]]}
						note={() => `${key}, why`}
						remove={{ edits: [[`${field}."${key}"`, null]], note: `${key} back in service` }}
					>
						{key.replace(/^(leaf|rack)\//, "")}
					</FormWord>{" "}
					{field === "out_of_service" ? "out of service" : "planned later"}
					{why && `: ${why}`}
				</li>
			))}
		</ul>
	);
}
