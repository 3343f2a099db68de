/** The sentence about pods and super-spines, or the way to have them. */
import type { Brief } from "../../api/client";
import { FormWord } from "./formword";
import { around, useModels } from "./models";
import { whole } from "./parse";
import { countRacks, resizeRacks } from "./racks";
import { Word } from "./word";

export function Pods({ brief }: { brief: Brief }) {
	const models = useModels("super-spine");
	const top = brief.super_spines;
	if (!brief.pods || !top) return null;
	const count = countRacks(brief.pods);
	const pods = brief.pods;
	const titled = (id: string) => models.find((model) => model.value === id)?.label ?? id;
	return (
		<>
			<Word
				path="pods"
				value={pods}
				say={(value) => `${countRacks(String(value))} pods ${value}`}
				typed={String(count)}
				parse={(text) => (/^\d+$/.test(text.trim()) ? resizeRacks(pods, Number(text)) : text.trim())}
				weighed
				choices={around(count, 512).map((n) => ({
					value: n === count ? pods : resizeRacks(pods, n),
					label: `${n} pods`,
				}))}
			>
				{count}
			</Word>{" "}
			pods <Word path="pods" value={pods} say={(value) => `pods ${value}`} parse={(text) => text.trim()} />
			{brief.pods_growth > 0 && (
				<>
					,{" "}
					<Word
						path="pods_growth"
						value={brief.pods_growth}
						say={(value) => `${value} pods to come`}
						parse={whole}
					/>{" "}
					more to come
				</>
			)}
			, under {brief.spines.count} planes of{" "}
			<Word
				path="super_spines.per_plane"
				value={top.per_plane}
				say={(value) => `${value} super-spines a plane`}
				parse={whole}
				weighed
				choices={around(top.per_plane, 64).map((value) => ({ value, label: `${value} a plane` }))}
			/>{" "}
			super-spines,{" "}
			<Word
				path="super_spines.model"
				value={top.model}
				say={(value) => `super-spines ${titled(String(value))}`}
				choices={models}
				weighed
			>
				{titled(top.model)}
			</Word>
			, in{" "}
			<Word
				path="super_spines.racks"
				value={top.racks}
				say={(value) => `super-spines in ${value}`}
				parse={(text) => text.trim()}
			/>
			, by{" "}
			<Word
				path="super_spines.links"
				value={top.links}
				say={(value) => `${value} links to each super-spine`}
				parse={whole}
				weighed
				choices={around(top.links, 16).map((value) => ({ value, label: `${value} links` }))}
			/>{" "}
			{top.links === 1 ? "link" : "links"}{" "}
			<FormWord
				plain
				title="Two tiers again"
				fields={[]}
				verb="Keep three tiers"
				edits={() => []}
				note={() => ""}
				remove={{
					edits: [
						["pods", null],
						["pods_growth", null],
						["super_spines", null],
						...(brief.racks ?? []).flatMap((group, index): [string, null][] =>
							group.pods ? [[`racks[${index}].pods`, null]] : [],
						),
					],
					note: "two tiers",
				}}
			>
				<span aria-hidden="true">×</span>
				<span className="sr-only">take the third tier out</span>
			</FormWord>
			.{" "}
		</>
	);
}

export function ThirdTier() {
	return (
		<span className="ml-4">
			<FormWord
				plain
				title="A third tier"
				verb="Add pods"
				fields={[
					{ name: "pods", label: "Pods", value: "p01..p02" },
					{ name: "per_plane", label: "Super-spines a plane", value: "2" },
					{ name: "model", label: "Model", value: "lonja-s64" },
				]}
				edits={(values) => [
					["super_spines", { per_plane: Number(values.per_plane), model: values.model ?? "lonja-s64" }],
					["pods", values.pods?.trim()],
				]}
				note={(values) => `pods ${values.pods}`}
			>
				Add pods
			</FormWord>
		</span>
	);
}
