/** Racks at a glance: each an elevation of 42 units, drawn from the same data as the plan. */
import type { Fabric, Rack } from "../../api/client";
import { useRacks } from "../../api/queries";
import { number } from "../../ui/words";
import type { Choice } from "./geometry";

const UNIT = 4.2;
const WIDTH = 84;

export function RacksView({
	fabric,
	chosen,
	onChoose,
}: {
	fabric: Fabric;
	chosen: Choice;
	onChoose: (choice: Choice) => void;
}) {
	const racks = useRacks(fabric.name, fabric.version).data ?? [];
	return (
		<section
			aria-label="Racks"
			// biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls can be reached by keyboard
			tabIndex={0}
			className="flex min-h-0 flex-1 flex-wrap content-start gap-x-5 gap-y-6 overflow-y-auto pt-4 pb-8"
		>
			{racks.map((rack) => (
				<Elevation key={rack.rack} rack={rack} chosen={chosen} onChoose={onChoose} />
			))}
		</section>
	);
}

function Elevation({
	rack,
	chosen,
	onChoose,
}: {
	rack: Rack;
	chosen: Choice;
	onChoose: (choice: Choice) => void;
}) {
	const over = rack.units > rack.height;
	const leaves = rack.switches.some((one) => one.role === "leaf" || one.role === "border");
	const on = chosen.racks === rack.rack;
	return (
		<figure
			className="[content-visibility:auto]"
			style={{ width: WIDTH, containIntrinsicSize: "84px 240px" }}
		>
			<figcaption className="mb-1 flex items-baseline justify-between">
				<button
					type="button"
					disabled={!leaves}
					className={`font-semibold ${on ? "text-indigo" : ""} ${leaves ? "hover:text-indigo" : "cursor-default"}`}
					onClick={() => onChoose({ racks: rack.rack })}
				>
					{rack.rack}
				</button>
				<span className={`text-[11px] ${over ? "text-madder" : "text-soft"}`}>{rack.units} U</span>
			</figcaption>
			<svg
				width={WIDTH}
				height={rack.height * UNIT + 2}
				role="img"
				aria-label={`Rack ${rack.rack}: ${rack.switches.map((one) => `${one.name} at unit ${one.unit}`).join(", ")}${over ? "; more than it holds" : ""}`}
			>
				<rect
					x="1"
					y="1"
					width={WIDTH - 2}
					height={rack.height * UNIT}
					fill="var(--raised)"
					stroke={on ? "var(--indigo)" : over ? "var(--madder)" : "var(--hair)"}
					strokeWidth={on ? 2 : 1}
					strokeDasharray={over ? "6 3" : undefined}
				/>
				{rack.switches.map((one) => {
					const tall = one.units * UNIT;
					const y = (rack.height - one.unit - one.units + 1) * UNIT + 1;
					const isLeaf = one.role === "leaf" || one.role === "border";
					const picked = chosen.leaf === one.name || chosen.spine === one.name;
					return (
						// biome-ignore lint/a11y/noStaticElementInteractions: the Weave and the list do the same by keyboard
						<g
							key={one.name}
							style={{ cursor: "pointer" }}
							onClick={() => onChoose(isLeaf ? { leaf: one.name } : { spine: one.name })}
						>
							<title>{`${one.name}, ${one.model}, U${one.unit}, ${one.power} W${one.state ? `, ${one.state}` : ""}`}</title>
							<rect
								x="4"
								y={y + 0.4}
								width={WIDTH - 8}
								height={Math.max(2.6, tall - 0.8)}
								fill={
									one.state === "planned later"
										? "transparent"
										: picked
											? "var(--indigo)"
											: isLeaf
												? "var(--indigo-pale)"
												: "var(--walnut)"
								}
								stroke={one.state ? "var(--madder)" : "none"}
								strokeDasharray={one.state ? "3 2" : undefined}
							/>
						</g>
					);
				})}
			</svg>
			<div className="text-[11px] leading-tight text-soft">
				{number(rack.power)} W
				<br />
				{number(rack.weight)} kg
				{rack.state && <div className="text-madder">{rack.state}</div>}
			</div>
		</figure>
	);
}
