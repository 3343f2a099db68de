/** From a need to a fabric: say what is needed, see the designs that meet it side by side, keep one. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Failure, got, type Need, type Proposals } from "../api/client";
import { useCatalogue } from "../api/queries";
import { Refusal } from "../app/refusal";
import { counted, number, ratio } from "../ui/words";
import { Keep, Labelled, type StartProps } from "./parts";

const RULES: Need["rule"][] = [
	"fewest switches",
	"fewest cables",
	"least power",
	"least oversubscribed",
	"most room",
];
const FIELDS = [
	["hosts", "Hosts", "1200"],
	["host_speed", "Speed, Gbit/s", "25"],
	["racks", "Racks, 0 for as needed", "0"],
	["oversubscription", "At most, to 1", "3"],
	["growth", "Growth, percent", "25"],
] as const;

export function Needed({ make, busy }: StartProps) {
	const models = useCatalogue().data ?? [];
	const [said, setSaid] = useState<Record<string, string>>({});
	const [homes, setHomes] = useState(2);
	const [rule, setRule] = useState<Need["rule"]>("fewest switches");
	const [left, setLeft] = useState<string[]>([]);
	const ask = useMutation<Proposals, Failure>({
		mutationFn: () => {
			const value = (field: string, usual: string) => Number(said[field] ?? usual);
			return got(
				client.POST("/api/v1/proposals", {
					body: {
						name: "proposal",
						need: {
							hosts: value("hosts", "1200"),
							host_speed: value("host_speed", "25"),
							racks: value("racks", "0"),
							oversubscription: value("oversubscription", "3"),
							growth: value("growth", "25") / 100,
							homes,
							rule,
							models: left.length
								? models.filter((model) => !left.includes(model.id)).map((model) => model.id)
								: [],
						},
					},
				}),
			);
		},
	});
	return (
		<form
			className="flex flex-col gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				ask.mutate();
			}}
		>
			<div className="grid grid-cols-5 gap-3">
				{FIELDS.map(([field, label, usual]) => (
					<Labelled key={field} label={label}>
						<input
							className="field mono min-w-0"
							inputMode="decimal"
							value={said[field] ?? usual}
							onChange={(event) => setSaid({ ...said, [field]: event.target.value })}
						/>
					</Labelled>
				))}
			</div>
			<div className="flex items-end gap-4">
				<Labelled label="Each host on">
					<select className="field" value={homes} onChange={(event) => setHomes(Number(event.target.value))}>
						<option value={2}>two leaves</option>
						<option value={1}>one leaf</option>
					</select>
				</Labelled>
				<Labelled label="Best is">
					<select
						className="field"
						value={rule}
						onChange={(event) => setRule(event.target.value as Need["rule"])}
					>
						{RULES.map((one) => (
							<option key={one}>{one}</option>
						))}
					</select>
				</Labelled>
				<button type="submit" className="button-main" disabled={ask.isPending}>
					{ask.isPending ? "Weighing…" : "Weigh every design"}
				</button>
			</div>
			<details>
				<summary className="cursor-pointer text-indigo">
					Models allowed: {left.length ? `${models.length - left.length} of ${models.length}` : "all"}
				</summary>
				<div className="mt-1 flex flex-wrap gap-x-4">
					{models.map((model) => (
						<label key={model.id} className="flex items-center gap-1">
							<input
								type="checkbox"
								checked={!left.includes(model.id)}
								onChange={() =>
									setLeft(
										left.includes(model.id) ? left.filter((one) => one !== model.id) : [...left, model.id],
									)
								}
							/>
							{model.maker} {model.name}
						</label>
					))}
				</div>
			</details>
			{ask.error && <Refusal failure={ask.error} />}
			{ask.data && <Answer found={ask.data} make={make} busy={busy} />}
		</form>
	);
}

function Answer({ found, make, busy }: StartProps & { found: Proposals }) {
	const [chosen, choose] = useState(0);
	const [name, setName] = useState("");
	const one = found.proposals[chosen];
	return (
		<>
			<p>
				{number(found.weighed)} designs weighed, <b>{number(found.met)}</b> meet the need
				{found.proposals.length > 0 && ", the best of each set of models first"}.
			</p>
			{found.proposals.length > 0 && (
				<div className="overflow-x-auto">
					<table className="w-full border-collapse">
						<thead>
							<tr className="border-b border-hair text-left text-[12px] text-soft">
								{["", "Leaves", "Spines", "Switches", "Cables", "Power", "To 1", "Left, 1 lost", "Room"].map(
									(head) => (
										<th key={head} scope="col" className="py-1 pr-3 font-normal">
											{head}
										</th>
									),
								)}
							</tr>
						</thead>
						<tbody>
							{found.proposals.map(({ design, sums }, index) => (
								<tr
									key={JSON.stringify(design)}
									className={`border-b border-hair/60 align-top ${index === chosen ? "bg-chosen" : ""}`}
								>
									<td className="py-1 pr-2 pl-1">
										<input
											type="radio"
											name="proposal"
											aria-label={`Choose proposal ${index + 1}`}
											checked={index === chosen}
											onChange={() => choose(index)}
										/>
									</td>
									<td className="py-1 pr-3">
										{counted(sums.leaves, design.leaf, design.leaf)}
										<div className="text-[12px] text-soft">
											{counted(design.racks, "rack")}
											{design.pods > 0 && ` in ${design.pods} pods`}
										</div>
									</td>
									<td className="py-1 pr-3">
										{sums.spines} {design.spine}
										<div className="text-[12px] text-soft">
											{design.lanes} {design.lanes === 1 ? "uplink" : "uplinks"} to each
											{design.supers > 0 && `, ${sums.super_spines} ${design.super_spine}`}
										</div>
									</td>
									<td className="py-1 pr-3">{number(design.switches)}</td>
									<td className="py-1 pr-3">{number(design.cables)}</td>
									<td className="py-1 pr-3 whitespace-nowrap">{number(design.power / 1000)} kW</td>
									<td className="py-1 pr-3">{ratio(design.oversubscription)}</td>
									<td className="py-1 pr-3">{Math.round((sums.bandwidth_left[0] ?? 0) * 100)} %</td>
									<td className="py-1">{counted(design.room, "leaf", "leaves")}</td>
								</tr>
							))}
						</tbody>
					</table>
				</div>
			)}
			{one && (
				<Keep
					name={name}
					setName={setName}
					ready={Boolean(name.trim())}
					busy={busy}
					label="Keep this one"
					onMake={() => make({ text: one.text, name: name.trim() || undefined })}
				/>
			)}
			{found.failures.length > 0 && (
				<details open={found.proposals.length === 0}>
					<summary className="cursor-pointer text-indigo">
						Why {counted(found.failures.length, "other set")} of models cannot
					</summary>
					<ul className="mt-1">
						{found.failures.map((failure) => (
							<li key={failure.models} className="border-b border-hair/60 py-0.5">
								{failure.models}: <span className="text-soft">{failure.reason}</span>
							</li>
						))}
					</ul>
				</details>
			)}
		</>
	);
}
