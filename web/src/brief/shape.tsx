/** The sentences about what stands where: spines, groups of racks, and the links between them. */
import type { Brief } from "../api/client";
import { useCatalogue } from "../api/queries";
import { FormWord } from "./formword";
import { whole } from "./parse";
import { countRacks, resizeRacks } from "./racks";
import { Word } from "./word";

function useModels(tier: "spine" | "leaf") {
	const models = useCatalogue().data ?? [];
	return models
		.filter((model) => model.tiers.includes(tier))
		.map((model) => ({ value: model.id, label: `${model.maker} ${model.name}` }));
}

/** Counts worth offering: one fewer, and a few steps up. */
const around = (value: number, most: number) =>
	[value - 1, value, value + 1, value + 2, value + 4].filter((n) => n >= 1 && n <= most);

export function Shape({ brief, all }: { brief: Brief; all: boolean }) {
	const spineModels = useModels("spine");
	const { spines } = brief;
	const lanes = brief.uplinks_per_spine;
	const titled = (id: string) => spineModels.find((model) => model.value === id)?.label ?? id;
	return (
		<>
			<p className="mb-2">
				<Word
					path="spines.count"
					value={spines.count}
					say={(value) => `${value} spines`}
					parse={whole}
					weighed
					choices={around(spines.count, 64).map((value) => ({ value, label: `${value} spines` }))}
				/>{" "}
				{spines.count === 1 ? "spine" : "spines"},{" "}
				<Word
					path="spines.model"
					value={spines.model}
					say={(value) => `spines ${titled(String(value))}`}
					choices={spineModels}
					weighed
				>
					{titled(spines.model)}
				</Word>
				, in{" "}
				<Word
					path="spines.racks"
					value={spines.racks}
					say={(value) => `spines in ${value}`}
					parse={(text) => text.trim()}
				/>
				.{" "}
				{brief.racks.map((group, index) => (
					<Group key={group.racks} brief={brief} index={index} all={all} />
				))}
				{brief.racks.length > 0 && (
					<>
						Every leaf takes{" "}
						<Word
							path="uplinks_per_spine"
							value={lanes}
							say={(value) => `${value} to each spine`}
							parse={whole}
							weighed
							choices={around(lanes, 16).map((value) => ({ value, label: `${value} to each spine` }))}
						/>{" "}
						{lanes === 1 ? "uplink" : "uplinks"} to each spine.
					</>
				)}
			</p>
			<AddRacks brief={brief} />
		</>
	);
}

function Group({ brief, index, all }: { brief: Brief; index: number; all: boolean }) {
	const leafModels = useModels("leaf");
	const group = brief.racks[index];
	if (!group) return null;
	const path = `racks[${index}]`;
	const count = countRacks(group.racks);
	const model = leafModels.find((one) => one.value === group.model)?.label ?? group.model;
	const racksOf = (value: unknown) => (typeof value === "number" ? resizeRacks(group.racks, value) : value);
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
			{count === 1 ? "rack" : "racks"}{" "}
			<Word
				path={`${path}.racks`}
				value={group.racks}
				say={(value) => `racks ${value}`}
				parse={(text) => text.trim()}
			/>
			{count === 1 ? ", with " : ", each with "}
			<Word
				path={`${path}.leaves`}
				value={group.leaves}
				say={(value) => `${value === 2 ? "pairs" : "single leaves"} in ${group.racks}`}
				weighed
				choices={[
					{ value: 1, label: "one leaf" },
					{ value: 2, label: "a pair" },
				]}
			>
				{group.leaves === 2 ? "a pair" : "one"}
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
			)}{" "}
			<FormWord
				plain
				title={`Racks ${group.racks}`}
				fields={[]}
				edits={() => []}
				note={() => ""}
				verb="Keep them"
				remove={{ edits: [[path, null]], note: `no racks ${group.racks}` }}
			>
				<span aria-hidden="true">×</span>
				<span className="sr-only">take out racks {group.racks}</span>
			</FormWord>
			.{" "}
		</>
	);
}

function AddRacks({ brief }: { brief: Brief }) {
	const leafModels = useModels("leaf");
	const taken = brief.racks.map((group) => group.racks).join(", ");
	return (
		<p>
			<FormWord
				plain
				title="Racks of another kind"
				verb="Add them"
				fields={[
					{ name: "racks", label: "Racks", value: taken ? "" : "r01..r04", placeholder: "r21..r24" },
					{
						name: "leaves",
						label: "Each with",
						value: "2",
						choices: [
							["2", "a pair of leaves"],
							["1", "one leaf"],
						],
					},
					{
						name: "model",
						label: "Model",
						value: leafModels[0]?.value ?? "cantera-l48",
						choices: leafModels.map((one) => [one.value, one.label]),
					},
					{
						name: "role",
						label: "For",
						value: "leaf",
						choices: [
							["leaf", "hosts"],
							["border", "the border"],
						],
					},
				]}
				edits={(values) => {
					const group = {
						racks: values.racks?.trim() ?? "",
						leaves: Number(values.leaves),
						model: values.model ?? "",
						role: values.role,
					};
					return brief.racks.length ? [[`racks[${brief.racks.length}]`, group]] : [["racks", [group]]];
				}}
				note={(values) => `racks ${values.racks}`}
			>
				{brief.racks.length ? "Add racks of another kind" : "Add the first racks"}
			</FormWord>
		</p>
	);
}
