/** The front of a switch: its ports in their real rows. Used ones are filled, the one in question is outlined. */
import type { SwitchType } from "../api/client";

interface Props {
	model: SwitchType;
	used: Map<string, string>;
	marked?: string;
	onPort?: (port: string) => void;
}

const CELL = 11;
const GAP = 10;

export function Face({ model, used, marked, onPort }: Props) {
	let left = 0;
	const groups = model.groups.map((group) => {
		const rows = group.rows ?? 2;
		const columns = Math.ceil(group.count / rows);
		const shown = Math.min(columns, 36);
		const at = left;
		left += shown * CELL + GAP;
		return { group, rows, at, shown };
	});
	const width = left - GAP;
	const height = Math.max(...groups.map(({ rows }) => rows)) * CELL;
	return (
		<svg
			viewBox={`-1 -1 ${width + 2} ${height + 2}`}
			width="100%"
			role="img"
			aria-label={`Front of ${model.maker} ${model.name}`}
			className="block"
			style={{ maxWidth: width + 2 }}
		>
			{groups.map(({ group, rows, at, shown }) =>
				Array.from({ length: Math.min(group.count, shown * rows) }, (_, index) => {
					const port = `${group.prefix}${index + 1}`;
					const peer = used.get(port);
					const x = at + Math.floor(index / rows) * CELL;
					const y = (index % rows) * CELL;
					return (
						// biome-ignore lint/a11y/noStaticElementInteractions: the grid beside it does the same by keyboard
						<g
							key={port}
							onClick={onPort && peer ? () => onPort(port) : undefined}
							style={{ cursor: onPort && peer ? "pointer" : undefined }}
						>
							<title>{peer ? `${port}: ${peer}` : `${port}: free`}</title>
							<rect
								x={x + 0.5}
								y={y + 0.5}
								width={CELL - 2}
								height={CELL - 2}
								fill={peer ? (port === marked ? "var(--indigo)" : "var(--walnut)") : "transparent"}
								stroke={peer ? "none" : "var(--faint)"}
								strokeWidth=".8"
							/>
							{port === marked && (
								<rect
									x={x - 0.8}
									y={y - 0.8}
									width={CELL + 0.6}
									height={CELL + 0.6}
									fill="none"
									stroke="var(--indigo)"
									strokeWidth="1.4"
								/>
							)}
						</g>
					);
				}),
			)}
		</svg>
	);
}
