/** What the words about switches offer: models that fit a tier, and counts near the one that is said. */
import { useCatalogue } from "../../api/queries";

export function useModels(tier: "spine" | "leaf" | "super-spine") {
	const models = useCatalogue().data ?? [];
	return (
		models
			.filter((model) => model.tiers.includes(tier))
			// Models made for the tier come before those that can stand in any.
			.sort((one, other) => one.tiers.length - other.tiers.length)
			.map((model) => ({ value: model.id, label: `${model.maker} ${model.name}` }))
	);
}

/** Counts worth offering: one fewer, and a few steps up. */
export const around = (value: number, most: number) =>
	[value - 1, value, value + 1, value + 2, value + 4].filter((n) => n >= 1 && n <= most);
