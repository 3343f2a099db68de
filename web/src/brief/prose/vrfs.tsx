/** The sentences about VRFs: which there are, what each takes from others, what is behind its hosts, what is told outside. */
import type { Brief } from "../../api/client";
import { type Field, FormWord } from "./formword";

type Vrf = NonNullable<Brief["vrfs"]>[string];

export function Vrfs({ brief }: { brief: Brief }) {
	const vrfs = Object.entries(brief.vrfs ?? {});
	const known = vrfs.filter(([, vrf]) => knows(vrf).length > 0);
	return (
		<>
			<p className="mb-1.5">
				{vrfs.length === 0 ? "No VRF yet." : `${vrfs.length} ${vrfs.length === 1 ? "VRF" : "VRFs"}: `}
				{vrfs.map(([name, vrf], index) => (
					<span key={name}>
						{index > 0 && ", "}
						<VrfWord name={name} vrf={vrf} />
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
			{known.length > 0 && (
				<ul className="mb-1.5">
					{known.map(([name, vrf]) => (
						<li key={name}>
							{name} {knows(vrf).join("; ")}
						</li>
					))}
				</ul>
			)}
		</>
	);
}

/** What a VRF says beside its name, in words. */
function knows(vrf: Vrf): string[] {
	const takes = Object.entries(vrf.imports ?? {}).map(
		([other, shares]) => `takes ${shares.join(", ")} from ${other}`,
	);
	const leads = Object.entries(vrf.routes ?? {}).map(
		([prefix, hops]) => `reaches ${prefix} by ${hops.join(" and ")}`,
	);
	const told = vrf.aggregates?.length ? [`is told outside as ${vrf.aggregates.join(", ")}`] : [];
	return [...takes, ...leads, ...told];
}

const words = (text: string) => text.split(/[\s,]+/).filter(Boolean);
const lines = (text: string) => text.split("\n").filter((line) => line.trim());

/** Lines such as “10.97.0.0/16 by 10.72.1.9” as the brief has them, and back; nothing when there are none. */
export function asRoutes(text: string): Record<string, string[]> | null {
	const found = lines(text).map((line): [string, string[]] => {
		const [prefix = "", ...hops] = words(line.replace(/\b(by|and)\b/g, " "));
		return [prefix, hops];
	});
	return found.length ? Object.fromEntries(found) : null;
}

/** Lines such as “intake: dish-feeds, 10.80.0.0/24”. */
export function asImports(text: string): Record<string, string[]> | null {
	const found = lines(text).map((line): [string, string[]] => {
		const [other = "", ...shares] = words(line.replace(/:(?=\s|$)/, " "));
		return [other, shares];
	});
	return found.length ? Object.fromEntries(found) : null;
}

function asSaid(field: string, text: string): unknown {
	if (field === "routes") return asRoutes(text);
	if (field === "imports") return asImports(text);
	if (field === "aggregates") return words(text).length ? words(text) : null;
	const plain = text.trim();
	return plain === "" ? null : /^\d+$/.test(plain) ? Number(plain) : plain;
}

function VrfWord({ name, vrf }: { name: string; vrf: Vrf }) {
	const paired = (
		said: Record<string, string[]> | undefined,
		join: (key: string, list: string[]) => string,
	) =>
		Object.entries(said ?? {})
			.map(([key, list]) => join(key, list))
			.join("\n");
	const fields: Field[] = [
		{ name: "vni", label: "L3 VNI", value: vrf.vni ? String(vrf.vni) : "", placeholder: "lowest free" },
		{ name: "vlan", label: "VLAN", value: vrf.vlan ? String(vrf.vlan) : "", placeholder: "lowest free" },
		{
			name: "imports",
			label: "Takes from",
			value: paired(vrf.imports, (other, shares) => `${other}: ${shares.join(", ")}`),
			placeholder: "intake: dish-feeds",
			long: true,
		},
		{
			name: "routes",
			label: "Reaches",
			value: paired(vrf.routes, (prefix, hops) => `${prefix} by ${hops.join(" and ")}`),
			placeholder: "10.97.0.0/16 by 10.72.1.9",
			long: true,
		},
		{
			name: "aggregates",
			label: "Told outside as",
			value: (vrf.aggregates ?? []).join(", "),
			placeholder: "each prefix of its own",
		},
	];
	return (
		<FormWord
			title={`VRF ${name}`}
			fields={fields}
			changedPath={`vrfs.${name}`}
			edits={(values) =>
				fields
					.filter((field) => values[field.name] !== field.value)
					.map((field) => [`vrfs.${name}.${field.name}`, asSaid(field.name, values[field.name] ?? "")])
			}
			note={() => `VRF ${name}`}
			remove={{ edits: [[`vrfs.${name}`, null]], note: `no VRF ${name}` }}
		>
			{name}
		</FormWord>
	);
}
