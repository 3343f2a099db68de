/** The catalogue: switch models with their fronts; the architect's own are written here, with what a change does. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Failure, got, type ModelPreview, type ModelRow } from "../api/client";
import { useShelf } from "../api/queries";
import { useMay } from "../api/session";
import { Refusal } from "../app/refusal";
import { Screen } from "../app/screen";
import { usePlace } from "../ui/place";
import { counted, effectPhrases, number } from "../ui/words";
import { Front } from "./front";

export function CatalogueScreen() {
	const shelf = useShelf();
	const [{ model }, go] = usePlace("model");
	const rows = shelf.data ?? [];
	const chosen = rows.find((row) => row.model.id === model) ?? rows[0];
	return (
		<Screen title="Catalogue">
			<div className="flex min-h-0">
				<nav aria-label="Models" className="w-64 flex-none overflow-y-auto border-r border-hair py-4">
					<ul>
						{rows.map((row) => (
							<li key={row.model.id}>
								<button
									type="button"
									aria-current={row === chosen}
									className={`w-full px-5 py-1.5 text-left ${row === chosen ? "bg-chosen" : "hover:bg-raised"}`}
									onClick={() => go({ model: row.model.id })}
								>
									<b className="font-semibold">
										{row.model.maker} {row.model.name}
									</b>
									{row.own && <span className="text-weld-ink"> yours</span>}
									<span className="block text-[12px] text-soft">{row.model.tiers.join(", ")}</span>
								</button>
							</li>
						))}
					</ul>
				</nav>
				<main className="min-w-0 flex-1 overflow-y-auto px-8 py-6">
					{chosen && <Model key={chosen.model.id} row={chosen} onOpen={(id) => go({ model: id })} />}
				</main>
			</div>
		</Screen>
	);
}

function Model({ row, onOpen }: { row: ModelRow; onOpen: (id: string) => void }) {
	const { model } = row;
	const mayKeep = useMay("catalogue");
	const shown: [string, string][] = [
		["Stands as", model.tiers.join(", ")],
		["Height", `${model.units} U`],
		["Airflow", model.airflow],
		["Power", `${number(model.power)} W`],
		["Weight", `${model.weight} kg`],
		["Routes", number(model.tables.routes)],
		["VNIs", number(model.tables.vnis)],
		["ECMP width", String(model.tables.ecmp)],
	];
	return (
		<div className="max-w-[860px]">
			<h1 className="text-[22px] font-bold tracking-tight">
				{model.maker} {model.name} <span className="mono font-normal text-soft">{model.id}</span>
			</h1>
			<Front model={model} />
			<dl className="mb-5 grid grid-cols-4 gap-x-8 gap-y-2">
				{shown.map(([term, value]) => (
					<div key={term}>
						<dt className="label-small">{term}</dt>
						<dd>{value}</dd>
					</div>
				))}
			</dl>
			<table className="mb-6 w-full border-collapse">
				<thead>
					<tr className="border-b border-hair text-left text-[12px] text-soft">
						{["Ports", "Connector", "Speeds, Gbit/s", "Use", "Rows", "Breaks out into"].map((head) => (
							<th key={head} scope="col" className="py-1 pr-4 font-normal">
								{head}
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{model.groups.map((group) => (
						<tr key={group.prefix} className="border-b border-hair/60">
							<td className="mono py-1 pr-4">
								{(group.pattern ?? `${group.prefix}{n}`).replace("{n}", String(group.first))} … {group.count}
							</td>
							<td className="py-1 pr-4">{group.connector}</td>
							<td className="py-1 pr-4">{group.speeds.join(", ")}</td>
							<td className="py-1 pr-4">{group.use}</td>
							<td className="py-1 pr-4">{group.rows}</td>
							<td className="py-1">
								{group.breakouts
									.map(
										(one) =>
											`${one.lanes} × ${one.speed}G${one.uses_up ? `, darkening ${one.uses_up} beside` : ""}`,
									)
									.join("; ") || "–"}
							</td>
						</tr>
					))}
				</tbody>
			</table>
			{mayKeep && <Editor row={row} onOpen={onOpen} />}
		</div>
	);
}

function Editor({ row, onOpen }: { row: ModelRow; onOpen: (id: string) => void }) {
	const [text, setText] = useState(() => row.text);
	const queries = useQueryClient();
	const preview = useMutation<ModelPreview, Failure>({
		mutationFn: () => got(client.POST("/api/v1/catalogue/preview", { body: { text } })),
	});
	const save = useMutation<ModelPreview, Failure>({
		mutationFn: () => got(client.PUT("/api/v1/catalogue", { body: { text } })),
		onSuccess: (found) => {
			preview.reset();
			void queries.invalidateQueries();
			onOpen(found.model.id);
		},
	});
	const drop = useMutation<unknown, Failure>({
		mutationFn: () =>
			got(client.DELETE("/api/v1/catalogue/{model}", { params: { path: { model: row.model.id } } })),
		onSuccess: () => {
			void queries.invalidateQueries();
			onOpen("");
		},
	});
	const failure = preview.error ?? save.error ?? drop.error;
	return (
		<section aria-label="As YAML">
			<h2 className="mb-1 text-[15px] font-bold">As YAML</h2>
			<p className="mb-2 max-w-[70ch] text-soft">
				Change it to correct this model, or give it another id to add one. Before it is kept, Barrio tells
				what it does to every fabric that uses it.
			</p>
			<textarea
				className="field mono h-72 w-full"
				aria-label="The model as YAML"
				spellCheck={false}
				value={text}
				onChange={(event) => {
					setText(event.target.value);
					preview.reset();
				}}
			/>
			{failure && <Refusal failure={failure} />}
			{preview.data && <Effects found={preview.data} />}
			<div className="mt-2 flex gap-5">
				{preview.data && !preview.data.effects.some((one) => one.refusal) ? (
					<button
						type="button"
						className="button-main"
						disabled={save.isPending}
						onClick={() => save.mutate()}
					>
						{preview.data.replaces ? "Keep the changed model" : "Add the model"}
					</button>
				) : (
					<button
						type="button"
						className="button-main"
						disabled={preview.isPending}
						onClick={() => preview.mutate()}
					>
						See what it does
					</button>
				)}
				{row.own && (
					<button type="button" className="button-plain" onClick={() => drop.mutate()}>
						Take it out
					</button>
				)}
			</div>
		</section>
	);
}

function Effects({ found }: { found: ModelPreview }) {
	return (
		<div className="mt-2 border-l-4 border-weld pl-3">
			<p>
				{found.model.maker} {found.model.name} reads well.{" "}
				{found.effects.length
					? `${counted(found.effects.length, "fabric uses", "fabrics use")} it:`
					: "No fabric uses it yet."}
			</p>
			<ul>
				{found.effects.map((one) => (
					<li key={one.fabric} className={one.refusal ? "text-madder" : ""}>
						<b>{one.fabric}</b>:{" "}
						{one.refusal ?? (effectPhrases(one.effect ?? {}).join(", ") || "nothing moves")}
					</li>
				))}
			</ul>
		</div>
	);
}
