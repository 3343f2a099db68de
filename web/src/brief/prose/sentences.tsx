/** The sentences about access, services and pools. */
import type { Brief } from "../../api/client";
import { useKeys, usePools } from "../../api/queries";
import { useMay } from "../../api/session";
import { useOpenFabric } from "../../app/open";
import { FormWord } from "./formword";
import { Word } from "./word";

const list = (text: string): unknown => {
	const parts = text.split(/[\s,]+/).filter(Boolean);
	return parts.length ? parts : null;
};

const keysOf = (text: string) =>
	text
		.split("\n")
		.map((line) => line.trim())
		.filter(Boolean);

const ROLES: [string, string][] = [
	["admin", "become root"],
	["operator", "look at routing and logs"],
];

export function Access({ brief, all }: { brief: Brief; all: boolean }) {
	const { services, management } = brief;
	const users = Object.entries(services.users ?? {});
	const fabric = useOpenFabric();
	const known = (useKeys(fabric.name, useMay("edit", fabric.name)).data ?? []).filter(
		(one) => !(one.name in (services.users ?? {})),
	);
	const servers = (field: "ntp" | "dns" | "syslog") => (
		<Word
			path={`services.${field}`}
			value={services[field]?.join(", ")}
			say={(value) => `${field} ${Array.isArray(value) ? value.join(", ") : "none"}`}
			parse={list}
		>
			{services[field]?.length ? services[field]?.join(", ") : "no server"}
		</Word>
	);
	return (
		<p>
			{users.map(([name, user], index) => (
				<span key={name}>
					{index > 0 && (index === users.length - 1 ? " and " : ", ")}
					<FormWord
						title={`${name} signs in by key`}
						changedPath={`services.users.${name}`}
						fields={[
							{ name: "keys", label: "Keys", value: user.keys.join("\n"), long: true },
							{ name: "role", label: "May", value: user.role, choices: ROLES },
						]}
						edits={(values) => [
							[`services.users.${name}.keys`, keysOf(values.keys ?? "")],
							[`services.users.${name}.role`, values.role === "admin" ? null : values.role],
						]}
						note={() => `keys of ${name}`}
						remove={{ edits: [[`services.users.${name}`, null]], note: `no user ${name}` }}
					>
						{name}
					</FormWord>
				</span>
			))}
			{users.length === 0
				? "Nobody may sign in yet. "
				: users.length === 1
					? " signs in by key. "
					: " sign in by key. "}
			<FormWord
				plain
				title="Someone who may sign in"
				verb="Add them"
				offers={known.map((one) => ({
					label: one.called,
					values: { name: one.name, keys: one.keys.join("\n") },
				}))}
				fields={[
					{ name: "name", label: "Account", value: "", placeholder: "ines" },
					{ name: "keys", label: "SSH keys", value: "", long: true, placeholder: "ssh-ed25519 …" },
				]}
				edits={(values) => [[`services.users.${values.name?.trim()}`, { keys: keysOf(values.keys ?? "") }]]}
				note={(values) => `user ${values.name}`}
			>
				Add someone
			</FormWord>
			. Time from {servers("ntp")}, names from {servers("dns")}, logs to {servers("syslog")}. Domain{" "}
			<Word
				path="services.domain"
				value={services.domain}
				say={(value) => `domain ${value}`}
				parse={(text) => text.trim() || null}
			/>
			.
			{(all || services.sign_in_from.length > 0) && (
				<>
					{" "}
					Sign-in is answered from{" "}
					<Word
						path="services.sign_in_from"
						value={services.sign_in_from.join(", ")}
						say={(value) => `sign-in from ${Array.isArray(value) ? value.join(", ") : "all of management"}`}
						parse={list}
					>
						{services.sign_in_from.join(", ") || "all of the management network"}
					</Word>
					.
				</>
			)}
			{(all || services.snmp) && (
				<>
					{" "}
					<FormWord
						title="Monitoring by SNMP version 3"
						changedPath="services.snmp"
						fields={[
							{
								name: "users",
								label: "Users",
								value: services.snmp?.users.join(", ") ?? "",
								placeholder: "monitor",
							},
							{
								name: "sources",
								label: "From",
								value: services.snmp?.sources.join(", ") ?? "",
								placeholder: "all of management",
							},
						]}
						edits={(values) => [
							[
								"services.snmp",
								list(values.users ?? "") && {
									users: list(values.users ?? ""),
									...(list(values.sources ?? "") ? { sources: list(values.sources ?? "") } : {}),
								},
							],
						]}
						note={() => "who reads by SNMP"}
					>
						{services.snmp ? services.snmp.users.join(", ") : "Nobody"}
					</FormWord>{" "}
					{(services.snmp?.users.length ?? 0) > 1 ? "read" : "reads"} by SNMP
					{services.snmp?.sources.length ? ` from ${services.snmp.sources.join(", ")}` : ""}.
				</>
			)}
			{(all || services.banner) && (
				<>
					{" "}
					Before sign-in it says{" "}
					<Word
						path="services.banner"
						value={services.banner}
						say={(value) => `banner “${value ?? ""}”`}
						parse={(text) => text.trim() || null}
					>
						{services.banner ? `“${services.banner}”` : "nothing"}
					</Word>
					.
				</>
			)}
			{(all || management.gateway) && (
				<>
					{" "}
					Out of band on{" "}
					<Word
						path="management.interface"
						value={management.interface}
						say={(value) => `management on ${value}`}
						parse={(text) => text.trim() || null}
					/>
					, by{" "}
					<Word
						path="management.gateway"
						value={management.gateway}
						say={(value) => `management gateway ${value ?? "first address"}`}
						parse={(text) => text.trim() || null}
					>
						{management.gateway ?? "the first address"}
					</Word>
					.
				</>
			)}
		</p>
	);
}

const USES: [keyof Brief["numbers"], string][] = [
	["loopback", "Loopbacks"],
	["vtep", "VTEPs"],
	["links", "links"],
	["asn", "ASNs"],
	["management", "management"],
	["vlan", "VLANs"],
	["vni", "VNIs"],
	["segments", "gateways"],
	["pairs", "pair domains"],
	["outside", "outside links"],
];

export function Numbers({ brief }: { brief: Brief }) {
	const pools = [...new Set((usePools().data ?? []).map((range) => range.pool))];
	return (
		<p>
			{USES.map(([use, noun], index) => (
				<span key={use}>
					{index > 0 && ", "}
					{noun} from{" "}
					<Word
						path={`numbers.${use}`}
						value={brief.numbers[use]}
						say={(value) => `${noun} from ${value}`}
						parse={(text) => text.trim()}
						choices={pools.map((pool) => ({ value: pool, label: pool }))}
					/>
				</span>
			))}
			.
		</p>
	);
}
