/** The sentences about what stands where: spines, groups of racks, and the links between them. */
import type { Brief } from "../../api/client";
import { FormWord } from "./formword";
import { Group } from "./groups";
import { around, useModels } from "./models";
import { whole } from "./parse";
import { Pods, ThirdTier } from "./pods";
import { Word } from "./word";

export function Shape({ brief, all }: { brief: Brief; all: boolean }) {
	const spineModels = useModels("spine");
	const { spines } = brief;
	const lanes = brief.uplinks_per_spine;
	const titled = (id: string) => spineModels.find((model) => model.value === id)?.label ?? id;
	return (
		<>
			<p className="mb-2">
				<Pods brief={brief} />
				<Word
					path="spines.count"
					value={spines.count}
					say={(value) => `${value} spines`}
					parse={whole}
					weighed
					choices={around(spines.count, 64).map((value) => ({ value, label: `${value} spines` }))}
				/>{" "}
				{spines.count === 1 ? "spine" : "spines"}
				{brief.pods ? " in each pod" : ""},{" "}
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
				{(all || spines.growth > 0) && (
					<>
						, {spines.growth > 0 ? "" : "with "}
						<Word
							path="spines.growth"
							value={spines.growth}
							say={(value) => `${value} more spines to come`}
							parse={whole}
						>
							{spines.growth || "none"}
						</Word>{" "}
						more to come
					</>
				)}
				.{" "}
				{(brief.racks ?? []).map((group, index) => (
					<Group key={group.racks + (group.pods ?? "")} brief={brief} index={index} all={all} />
				))}
				{(brief.racks ?? []).length > 0 && (
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

function AddRacks({ brief }: { brief: Brief }) {
	const leafModels = useModels("leaf");
	const racks = brief.racks ?? [];
	const taken = racks.map((group) => group.racks).join(", ");
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
					{ name: "kind", label: "Kind", value: "", placeholder: "storage" },
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
						...(values.kind?.trim() ? { kind: values.kind.trim() } : {}),
					};
					return racks.length ? [[`racks[${racks.length}]`, group]] : [["racks", [group]]];
				}}
				note={(values) => `racks ${values.racks}`}
			>
				{racks.length ? "Add racks" : "Add the first racks"}
			</FormWord>
			{racks.length > 0 && !brief.pods && <ThirdTier />}
		</p>
	);
}
