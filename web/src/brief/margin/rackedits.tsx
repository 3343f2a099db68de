/** Racks chosen on the picture: what they are, and taking them out, copying them, giving them another kind. */
import { useState } from "react";
import type { Fabric, Weave } from "../../api/client";
import { useChange } from "../../api/edits";
import { useCatalogue, useRacks } from "../../api/queries";
import { MayOnly } from "../../app/only";
import { Refusal } from "../../app/refusal";
import { Facts, MarginHead } from "../../ui/margin";
import { counted, number } from "../../ui/words";
import type { Choice } from "../weave/geometry";
import { Marking } from "./marking";

interface Props {
	fabric: Fabric;
	weave: Weave;
	racks: string[];
	onChoose: (choice: Choice) => void;
}

export function AtRacks({ fabric, weave, racks, onChoose }: Props) {
	const change = useChange(fabric.name, true);
	const loads = useRacks(fabric.name, fabric.version).data?.filter((one) => racks.includes(one.rack)) ?? [];
	const leaves = weave.leaves.filter((one) => racks.includes(one.rack));
	const models = [...new Set(leaves.map((one) => one.model))];
	const states = [...new Set(loads.map((one) => one.state))];
	const title = racks.length === 1 ? `Rack ${racks[0]}` : `Racks ${racks[0]} to ${racks.at(-1)}`;
	const reshape = (action: "remove" | "copy") =>
		change.mutate(
			{ kind: "reshape", action, racks },
			{ onSuccess: () => (action === "remove" ? onChoose({}) : undefined) },
		);
	const power = loads.reduce((sum, one) => sum + one.power, 0);
	const weight = loads.reduce((sum, one) => sum + one.weight, 0);
	return (
		<>
			<MarginHead kind={counted(racks.length, "rack")} title={title} />
			<Facts
				rows={[
					["Leaves", `${leaves.length}, ${models.join(", ")}`],
					["Power", `${number(power)} W`],
					["Weight", `${number(Math.round(weight * 10) / 10)} kg`],
					["Units", `${Math.max(0, ...loads.map((one) => one.units))} of ${loads[0]?.height ?? 42} at most`],
				]}
			/>
			{change.error && <Refusal failure={change.error} />}
			<MayOnly>
				<p className="mb-3 flex flex-wrap gap-x-4 gap-y-1">
					<button
						type="button"
						className="button-plain"
						disabled={change.isPending}
						onClick={() => reshape("copy")}
					>
						{racks.length === 1 ? "One more like it" : `${racks.length} more like them`}
					</button>
					<button
						type="button"
						className="button-plain"
						disabled={change.isPending}
						onClick={() => reshape("remove")}
					>
						Take {racks.length === 1 ? "it" : "them"} out
					</button>
				</p>
				<Marking
					fabric={fabric}
					keys={racks.map((rack) => `rack/${rack}`)}
					state={states.length === 1 ? (states[0] ?? "") : ""}
					what={racks.length === 1 ? "this rack" : "these racks"}
				/>
				<ChangeKind fabric={fabric} weave={weave} racks={racks} />
			</MayOnly>
		</>
	);
}

const KEEP = "keep";

function ChangeKind({ fabric, weave, racks }: Omit<Props, "onChoose">) {
	const change = useChange(fabric.name, true);
	const models = useCatalogue().data?.filter((one) => one.tiers.includes("leaf")) ?? [];
	const first = weave.leaves.find((one) => one.rack === racks[0]);
	const group = fabric.brief.racks?.[first?.group ?? 0];
	const [said, setSaid] = useState<Record<string, string>>({});
	const fields: [string, string, [string, string][]][] = [
		["model", "Model", models.map((one) => [one.id, `${one.maker} ${one.name}`])],
		[
			"leaves",
			"Leaves",
			[1, 2, 3, 4].map((count) => [String(count), count === 2 ? "a pair" : String(count)]),
		],
		[
			"role",
			"For",
			[
				["leaf", "hosts"],
				["border", "the border"],
			],
		],
		[
			"pairing",
			"Pairing",
			[
				["independent", "independent"],
				["multihoming", "EVPN multihoming"],
				["peer-link", "peer link"],
			],
		],
	];
	const edits: Record<string, string | number | null> = {};
	for (const [field, value] of Object.entries(said)) {
		if (value === KEEP || value === "") continue;
		edits[field] = /^\d+$/.test(value) ? Number(value) : value;
	}
	return (
		<form
			onSubmit={(event) => {
				event.preventDefault();
				change.mutate(
					{ kind: "reshape", action: "change", racks, fields: edits },
					{ onSuccess: () => setSaid({}) },
				);
			}}
		>
			<div className="label-small mb-1">Another kind</div>
			<div className="grid grid-cols-[auto_1fr] items-center gap-x-3 gap-y-1.5">
				{fields.map(([field, label, choices]) => (
					<label key={field} className="contents">
						<span className="text-soft">{label}</span>
						<select
							className="field min-w-0"
							value={said[field] ?? KEEP}
							onChange={(event) => setSaid({ ...said, [field]: event.target.value })}
						>
							<option value={KEEP}>
								as now
								{group ? ` (${String(group[field as keyof typeof group] ?? "")})` : ""}
							</option>
							{choices.map(([value, words]) => (
								<option key={value} value={value}>
									{words}
								</option>
							))}
						</select>
					</label>
				))}
				{(
					[
						["kind", "Kind’s name", group?.kind ?? "storage"],
						["uplinks_per_spine", "Uplinks a spine", String(group?.uplinks_per_spine ?? "")],
						["host_speed", "Host speed, G", String(group?.host_speed ?? "")],
					] as const
				).map(([field, label, hint]) => (
					<label key={field} className="contents">
						<span className="text-soft">{label}</span>
						<input
							className="field mono min-w-0"
							placeholder={hint}
							value={said[field] ?? ""}
							onChange={(event) => setSaid({ ...said, [field]: event.target.value })}
						/>
					</label>
				))}
			</div>
			{change.error && <Refusal failure={change.error} />}
			<button
				type="submit"
				className="button-main mt-2.5"
				disabled={!Object.keys(edits).length || change.isPending}
			>
				Change {counted(racks.length, "rack")}
			</button>
		</form>
	);
}
