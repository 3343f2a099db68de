/** The sentence about one group of racks: how many, with which leaves, paired how, and what is particular to them. */
import type { Brief, RackGroup } from "../../api/client";
import { FormWord } from "./formword";
import { around, useModels } from "./models";
import { whole } from "./parse";
import { countRacks, resizeRacks } from "./racks";
import { Word } from "./word";

const PAIRINGS = [
	{ value: "independent", label: "independent" },
	{ value: "multihoming", label: "joined by EVPN multihoming" },
	{ value: "peer-link", label: "joined by a peer link" },
];

export function Group({ brief, index, all }: { brief: Brief; index: number; all: boolean }) {
	const leafModels = useModels("leaf");
	const group = brief.racks?.[index];
	if (!group) return null;
	const path = `racks[${index}]`;
	const count = countRacks(group.racks);
	const model = leafModels.find((one) => one.value === group.model)?.label ?? group.model;
	const racksOf = (value: unknown) => (typeof value === "number" ? resizeRacks(group.racks, value) : value);
	const many = group.leaves === 2 ? "a pair" : group.leaves === 1 ? "one" : String(group.leaves);
	return (
		<>
			<Word
				path={`${path}.racks`}
				value={group.racks}
				say={(value) => `${countRacks(String(value))} racks ${value}`}
				typed={String(count)}
				parse={(text) => racksOf(whole(text))}
				weighed
				choices={around(count, 512).map((n) => ({
					value: n === count ? group.racks : resizeRacks(group.racks, n),
					label: `${n} racks`,
				}))}
			>
				{count}
			</Word>{" "}
			{(all || group.kind) && (
				<>
					<Word
						path={`${path}.kind`}
						value={group.kind ?? ""}
						say={(value) => `${group.racks} are of kind ${value ?? "none"}`}
						parse={(text) => text.trim() || null}
					>
						{group.kind ?? "plain"}
					</Word>{" "}
				</>
			)}
			{count === 1 ? "rack" : "racks"}{" "}
			<Word
				path={`${path}.racks`}
				value={group.racks}
				say={(value) => `racks ${value}`}
				parse={(text) => text.trim()}
			/>
			{brief.pods && (group.pods || all) && (
				<>
					{" in pods "}
					<Word
						path={`${path}.pods`}
						value={group.pods ?? ""}
						say={(value) => `${group.racks} in pods ${value ?? "all"}`}
						parse={(text) => text.trim() || null}
					>
						{group.pods ?? "all"}
					</Word>
				</>
			)}
			{count === 1 ? ", with " : ", each with "}
			<Word
				path={`${path}.leaves`}
				value={group.leaves}
				say={(value) =>
					`${value === 2 ? "pairs" : value === 1 ? "single leaves" : `${value} leaves`} in ${group.racks}`
				}
				parse={whole}
				weighed
				choices={[
					{ value: 1, label: "one leaf" },
					{ value: 2, label: "a pair" },
					{ value: 4, label: "four leaves" },
				]}
			>
				{many}
			</Word>
			{group.leaves === 2 ? " of " : " "}
			<Word
				path={`${path}.model`}
				value={group.model}
				say={(value) => `${value} in ${group.racks}`}
				choices={leafModels}
				weighed
			>
				{model}
			</Word>
			{group.leaves === 2 && (all || group.pairing !== "independent") && (
				<>
					,{" "}
					<Word
						path={`${path}.pairing`}
						value={group.pairing}
						say={(value) => `pairs in ${group.racks} ${value}`}
						choices={PAIRINGS}
						weighed
					>
						{PAIRINGS.find((one) => one.value === group.pairing)?.label ?? group.pairing}
					</Word>
				</>
			)}
			<Particulars group={group} path={path} all={all} />
			{(all || group.role === "border") && (
				<>
					{", for "}
					<Word
						path={`${path}.role`}
						value={group.role}
						say={(value) => `${value === "border" ? "border leaves" : "leaves"} in ${group.racks}`}
						choices={[
							{ value: "leaf", label: "hosts" },
							{ value: "border", label: "the border" },
						]}
					>
						{group.role === "border" ? "the border" : "hosts"}
					</Word>
				</>
			)}
			<FormWord
				plain
				title={`Racks ${group.racks}`}
				fields={[]}
				edits={() => []}
				note={() => ""}
				verb="Keep them"
				remove={{ edits: [[path, null]], note: `no racks ${group.racks}` }}
			>
				<span aria-hidden="true">{"\u00a0"}×</span>
				<span className="sr-only">take out racks {group.racks}</span>
			</FormWord>
			.{" "}
		</>
	);
}

/** What most racks leave at its default: uplinks and host speed of their own, growth, and how a pair is joined. */
function Particulars({ group, path, all }: { group: RackGroup; path: string; all: boolean }) {
	const linked = group.pairing === "peer-link";
	return (
		<>
			{(group.uplinks_per_spine || (all && group.kind)) && (
				<>
					,{" "}
					<Word
						path={`${path}.uplinks_per_spine`}
						value={group.uplinks_per_spine ?? ""}
						say={(value) => `${value ?? "usual"} uplinks a spine in ${group.racks}`}
						parse={(text) => (text.trim() ? whole(text) : null)}
						weighed
						choices={[1, 2, 4].map((value) => ({ value, label: `${value} to each spine` }))}
					>
						{group.uplinks_per_spine ?? "the usual"}
					</Word>{" "}
					to each spine
				</>
			)}
			{(all || group.host_speed) && (
				<>
					, hosts at{" "}
					<Word
						path={`${path}.host_speed`}
						value={group.host_speed ?? ""}
						say={(value) => `hosts at ${value ?? "full"}G in ${group.racks}`}
						parse={(text) => (text.trim() ? whole(text.replace(/[gG]$/, "")) : null)}
					>
						{group.host_speed ? `${group.host_speed}G` : "full speed"}
					</Word>
				</>
			)}
			{linked && (
				<>
					{" of "}
					<Word
						path={`${path}.peer_links`}
						value={group.peer_links}
						say={(value) => `${value} peer links in ${group.racks}`}
						parse={whole}
						weighed
						choices={[1, 2, 4].map((value) => ({ value, label: `${value} links` }))}
					/>{" "}
					links, watched over{" "}
					<Word
						path={`${path}.keepalive`}
						value={group.keepalive}
						say={(value) => `keepalive over ${value}`}
						choices={[
							{ value: "management", label: "management" },
							{ value: "peer-link", label: "the peer link" },
						]}
					>
						{group.keepalive === "management" ? "management" : "the peer link"}
					</Word>
				</>
			)}
			{group.pairing !== "independent" && (all || group.lags) && (
				<>
					, LAGs on{" "}
					<Word
						path={`${path}.lags`}
						value={group.lags ?? ""}
						say={(value) => `LAGs on ${value ?? "all host ports"}`}
						parse={(text) => text.trim() || null}
					>
						{group.lags ?? "all host ports"}
					</Word>
				</>
			)}
			{(all || group.growth > 0) && (
				<>
					,{" "}
					<Word
						path={`${path}.growth`}
						value={group.growth}
						say={(value) => `${value} racks like ${group.racks} to come`}
						parse={whole}
					>
						{group.growth || "none"}
					</Word>{" "}
					to come
				</>
			)}
		</>
	);
}
