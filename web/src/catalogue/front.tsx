/** The front of a model: its ports in their real rows, by connector. */
import type { SwitchType } from "../api/client";

const CELL = 15;

export function Front({ model }: { model: SwitchType }) {
	let left = 0;
	const groups = model.groups.map((group) => {
		const columns = Math.min(Math.ceil(group.count / group.rows), 60);
		const at = left;
		left += columns * CELL + 16;
		return { group, columns, at };
	});
	const rows = Math.max(...model.groups.map((group) => group.rows));
	const width = left - 16;
	return (
		<div className="my-5 overflow-x-auto border border-hair bg-raised p-4">
			<svg
				width={width + 90}
				height={rows * CELL + 20}
				role="img"
				aria-label={`Front of ${model.maker} ${model.name}: ${model.groups.map((group) => `${group.count} ports ${group.connector}`).join(", ")}`}
			>
				{groups.map(({ group, columns, at }) => (
					<g key={group.prefix}>
						{Array.from({ length: Math.min(group.count, columns * group.rows) }, (_, index) => {
							const number = group.first + index;
							const name = group.pattern?.replace("{n}", String(number)) ?? `${group.prefix}${number}`;
							const kept = model.reserved.includes(name);
							return (
								<rect
									key={name}
									x={at + Math.floor(index / group.rows) * CELL + 1}
									y={(index % group.rows) * CELL + 1}
									width={CELL - 3}
									height={CELL - 3}
									fill={kept ? "var(--faint)" : "transparent"}
									stroke={group.use === "host" ? "var(--woad)" : "var(--walnut)"}
								>
									<title>{`${name}${kept ? ", reserved" : ""}`}</title>
								</rect>
							);
						})}
						<text x={at} y={rows * CELL + 15} fontSize="11" fill="var(--soft)">
							{group.count} × {Math.max(...group.speeds)}G {group.connector}
						</text>
					</g>
				))}
			</svg>
		</div>
	);
}
