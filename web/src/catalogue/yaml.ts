/** A model as YAML for people to change; what is at its default is left out. */
import type { SwitchType } from "../api/client";

export function written(model: SwitchType): string {
	const lines = [
		`id: ${model.id}`,
		`maker: ${model.maker}`,
		`name: ${model.name}`,
		`tiers: [${model.tiers.join(", ")}]`,
		`units: ${model.units}`,
		`airflow: ${model.airflow}`,
		`power: ${model.power}`,
		`weight: ${Number.isInteger(model.weight) ? `${model.weight}.0` : model.weight}`,
		`tables: {routes: ${model.tables.routes}, vnis: ${model.tables.vnis}, ecmp: ${model.tables.ecmp}}`,
		`reserved: [${model.reserved.join(", ")}]`,
		"groups:",
	];
	for (const group of model.groups) {
		lines.push(
			`  - prefix: ${group.prefix}`,
			`    count: ${group.count}`,
			`    rows: ${group.rows}`,
			`    first: ${group.first}`,
			`    connector: ${group.connector}`,
			`    speeds: [${group.speeds.join(", ")}]`,
			`    use: ${group.use}`,
		);
		if (group.pattern) lines.push(`    pattern: "${group.pattern}"`);
		if (group.lane_pattern !== "{port}s{lane}") lines.push(`    lane_pattern: "${group.lane_pattern}"`);
		if (group.breakouts.length) lines.push("    breakouts:");
		for (const one of group.breakouts)
			lines.push(`      - {lanes: ${one.lanes}, speed: ${one.speed}, uses_up: ${one.uses_up}}`);
	}
	return `${lines.join("\n")}\n`;
}
