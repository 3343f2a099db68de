/** A rack to the unit, front or rear: what stands where, at which height, which way its ports look. Switches are moved by drag or by key. */
import { useState } from "react";
import { useChange } from "../api/edits";
import { useMay } from "../api/session";
import { useOpenFabric } from "../app/open";
import type { Elevation, Thing } from "./queries";

const WIDTH = 118;
/** Pixels that a name beside the rack needs. */
const LINE = 12;

interface Props {
	rack: Elevation;
	tall: number;
	/** The switch that a cable is plugged into. */
	marked?: string;
	/** The side one stands before; what looks the other way shows its back. */
	side?: "front" | "rear";
	onSwitch?: (name: string) => void;
}

export function RackElevation({ rack, tall, marked, side, onSwitch }: Props) {
	const fabric = useOpenFabric();
	const may = useMay("edit", fabric.name);
	const change = useChange(fabric.name);
	const [held, setHeld] = useState<{ thing: Thing; from: number; by: number } | null>(null);
	const unit = (tall - 2) / rack.height;
	const low = rack.feed !== null && rack.watts > rack.feed;
	const names = beside(rack, unit, tall);
	const move = (thing: Thing, by: number) => {
		const to = Math.max(1, Math.min(rack.height - thing.units + 1, thing.unit + by));
		if (to !== thing.unit)
			change.mutate({
				kind: "edit",
				edits: [[`units."${thing.key}"`, to]],
				note: `${thing.name} stands at U${to} of ${rack.rack}`,
			});
	};
	return (
		<figure className="flex-none">
			<figcaption className="mb-1 flex items-baseline gap-2">
				<b className="mono text-[12.5px] font-semibold">{rack.rack}</b>
				<span className={`text-[11px] ${low ? "text-madder" : "text-soft"}`}>
					{side
						? `from the ${side}`
						: `${rack.units} of ${rack.height} U, ${(rack.watts / 1000).toFixed(1)} kW`}
				</span>
			</figcaption>
			<svg
				width={WIDTH + 96}
				height={tall}
				role="img"
				aria-label={`Rack ${rack.rack}: ${rack.things.map((one) => `${one.name} at unit ${one.unit}`).join(", ")}`}
				onPointerMove={(event) =>
					held && setHeld({ ...held, by: Math.round((held.from - event.clientY) / unit) })
				}
				onPointerUp={() => {
					if (held?.by) move(held.thing, held.by);
					setHeld(null);
				}}
			>
				<rect
					x="0.5"
					y="0.5"
					width={WIDTH}
					height={tall - 1}
					fill="var(--raised)"
					stroke="var(--faint)"
					strokeOpacity="0.5"
				/>
				{[10, 20, 30, 40, 50].map(
					(at) =>
						at < rack.height && (
							<line
								key={at}
								x1="0"
								x2="4"
								y1={(rack.height - at + 0.5) * unit}
								y2={(rack.height - at + 0.5) * unit}
								stroke="var(--faint)"
							/>
						),
				)}
				{rack.things.map((thing) => (
					<Standing
						key={thing.name}
						thing={thing}
						y={
							(rack.height - thing.unit - thing.units + 1 - (held?.thing === thing ? held.by : 0)) * unit + 1
						}
						deep={thing.units * unit}
						name={names.get(thing.name)}
						back={side !== undefined && thing.faces !== side}
						marked={thing.name === marked}
						movable={may && thing.key !== ""}
						onHold={(from) => setHeld({ thing, from, by: 0 })}
						onMove={(by) => move(thing, by)}
						onChoose={() => thing.key && onSwitch?.(thing.name)}
					/>
				))}
			</svg>
			{held && (
				<p className="text-[11.5px] text-indigo">{`${held.thing.name} at U${held.thing.unit + held.by}`}</p>
			)}
		</figure>
	);
}

/** Where the names of thin things stand beside the rack, so that none lies on another. */
function beside(rack: Elevation, unit: number, tall: number): Map<string, number> {
	const found = new Map<string, number>();
	let last = -LINE;
	for (const thing of rack.things) {
		if (thing.units * unit > 15) continue;
		const middle = (rack.height - thing.unit - thing.units / 2 + 1) * unit + 1;
		last = Math.min(Math.max(middle, last + LINE), tall - 6);
		found.set(thing.name, last);
	}
	return found;
}

interface StandingProps {
	thing: Thing;
	y: number;
	deep: number;
	/** The height of its name beside the rack; nothing when the name stands in it. */
	name: number | undefined;
	back: boolean;
	marked: boolean;
	movable: boolean;
	onHold: (from: number) => void;
	onMove: (by: number) => void;
	onChoose: () => void;
}

const FILL: Record<string, string> = {
	leaf: "var(--indigo-pale)",
	border: "var(--indigo-pale)",
	spine: "var(--walnut)",
	"super-spine": "var(--walnut)",
	other: "var(--woad)",
};

function Standing({ thing, y, deep, name, back, marked, movable, onHold, onMove, onChoose }: StandingProps) {
	const letter = Math.min(10.5, (WIDTH - 16) / (thing.name.length * 0.6));
	const later = thing.state === "planned later";
	return (
		// biome-ignore lint/a11y/useSemanticElements: a button element cannot stand in a drawing
		<g
			role="button"
			tabIndex={thing.key ? 0 : -1}
			aria-label={`${thing.name}, U${thing.unit}, ports at the ${thing.faces}`}
			className="cursor-pointer"
			onPointerDown={(event) => {
				if (!movable) return;
				event.currentTarget.ownerSVGElement?.setPointerCapture(event.pointerId);
				onHold(event.clientY);
			}}
			onClick={onChoose}
			onKeyDown={(event) => {
				if (event.key === "Enter") onChoose();
				const by = event.key === "ArrowUp" ? 1 : event.key === "ArrowDown" ? -1 : 0;
				if (!by || !movable) return;
				event.preventDefault();
				onMove(by);
			}}
		>
			<title>{`${thing.name}${thing.model ? `, ${thing.model}` : ""}: U${thing.unit}, ${thing.watts} W, ports at the ${thing.faces}${thing.airflow ? `, air ${thing.airflow}` : ""}${thing.state ? `, ${thing.state}` : ""}`}</title>
			<rect
				x="3"
				y={y + 0.5}
				width={WIDTH - 5}
				height={Math.max(3, deep - 1.2)}
				fill={later ? "transparent" : (FILL[thing.kind] ?? "var(--faint)")}
				fillOpacity={back ? 0.25 : marked || thing.kind !== "other" ? 1 : 0.75}
				stroke={marked ? "var(--indigo)" : thing.state ? "var(--madder)" : "none"}
				strokeWidth={marked ? 2.5 : 1}
				strokeDasharray={thing.state ? "3 2" : undefined}
			/>
			{name === undefined ? (
				<text
					x="9"
					y={y + deep / 2 + 3.5}
					fill={back || later ? "var(--soft)" : "var(--paper)"}
					fontWeight={marked ? 700 : 400}
					style={{ fontSize: letter, fontFamily: "var(--font-mono)" }}
				>
					{thing.name}
				</text>
			) : (
				<>
					<path d={`M${WIDTH} ${y + deep / 2}L${WIDTH + 5} ${name}`} stroke="var(--hair)" fill="none" />
					<text
						x={WIDTH + 7}
						y={name + 3.5}
						fill={marked ? "var(--indigo)" : "var(--soft)"}
						fontWeight={marked ? 700 : 400}
						style={{ fontSize: 10.5, fontFamily: "var(--font-mono)" }}
					>
						U{thing.unit} {thing.name}
					</text>
				</>
			)}
		</g>
	);
}
