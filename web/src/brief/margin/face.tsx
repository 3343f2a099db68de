/** The front of a switch as one stands before it: rows and breakouts as they are, ports by use, and their plan by drag. */
import { useRef, useState } from "react";
import type { Fabric, Face, FacePort } from "../../api/client";
import { useChange } from "../../api/edits";
import { useFace } from "../../api/queries";
import { useMay } from "../../api/session";
import { type PortChange, usePortChanges } from "../../editions/queries";
import type { Lying } from "../weave/scene";

const CELL = 17;
const GAP = 14;

const USES: Record<string, [string, string]> = {
	uplink: ["uplinks", "var(--walnut)"],
	downlink: ["downlinks", "var(--walnut)"],
	peer: ["peer link", "var(--indigo-pale)"],
	host: ["hosts", "var(--woad)"],
	outside: ["outside", "var(--indigo)"],
	reserved: ["reserved", "var(--faint)"],
	dark: ["dark", "var(--empty)"],
	free: ["free", "transparent"],
};

const DRAFTED: Record<string, string> = {
	comes: ", new with the draft",
	goes: ", goes with the draft",
	changes: ", changed by the draft",
};
const SAID: Record<string, string> = { laid: ", laid", wrong: ", does not lie as planned" };

interface Hole {
	name: string;
	ports: FacePort[];
	breakouts: string[];
	x: number;
	y: number;
}

function holesOf(face: Face): { holes: Hole[]; width: number; height: number } {
	const holes: Hole[] = [];
	let left = 0;
	let tall = 0;
	for (const group of face.groups) {
		const columns = Math.ceil(group.holes.length / group.rows);
		group.holes.forEach((hole, index) => {
			holes.push({
				...hole,
				x: left + Math.floor(index / group.rows) * CELL,
				y: (index % group.rows) * CELL,
			});
		});
		left += columns * CELL + GAP;
		tall = Math.max(tall, group.rows);
	}
	return { holes, width: left - GAP, height: tall * CELL };
}

interface Props {
	fabric: Fabric;
	name: string;
	/** The role of the switch when its ports can be planned here. */
	kind?: string;
	marked?: string;
	/** Without a legend, as wide as it is. */
	plain?: boolean;
	/** How each cable lies, by its label, while cabling is looked at. */
	lying?: ReadonlyMap<string, Lying>;
	onCable?: (label: string) => void;
}

export function FaceView({ fabric, name, kind, marked, plain = false, lying, onCable }: Props) {
	const mayEdit = useMay("edit", fabric.name);
	const { data } = useFace(fabric.name, fabric.version, name);
	const changes = usePortChanges(fabric, name);
	const [picked, setPicked] = useState<string[]>([]);
	const start = useRef<number | null>(null);
	if (!data || data.switch !== name) return <div className="h-24" />;
	const { holes, width, height } = holesOf(data);
	const within = (from: number, to: number) =>
		holes
			.slice(Math.min(from, to), Math.max(from, to) + 1)
			.flatMap((hole) => hole.ports.map((port) => port.name));
	const uses = [...new Set(holes.flatMap((hole) => hole.ports.map((port) => port.use)))];
	const shown = holes.flatMap((hole) => hole.ports).find((port) => port.name === picked[0]);
	return (
		<div className="mb-3">
			<div className="overflow-x-auto pb-1">
				<svg
					viewBox={`-1 -1 ${width + 2} ${height + 2}`}
					width={plain ? width + 2 : Math.max(Math.min(width + 2, 234), (width + 2) * 0.46)}
					role="img"
					aria-label={`Front of ${name}, ${data.model}`}
					className="block max-w-full touch-none select-none"
					onPointerUp={() => {
						start.current = null;
					}}
				>
					<defs>
						<pattern
							id="changed"
							width="4"
							height="4"
							patternUnits="userSpaceOnUse"
							patternTransform="rotate(45)"
						>
							<rect width="4" height="4" fill="var(--weld-pale)" />
							<rect width="2" height="4" fill="var(--weld)" />
						</pattern>
					</defs>
					{holes.map((hole, index) => (
						<g
							key={hole.name}
							onPointerDown={(event) => {
								event.currentTarget.releasePointerCapture(event.pointerId);
								start.current = index;
								setPicked(within(index, index));
								const cable = hole.ports.find((port) => port.cable)?.cable;
								if (cable) onCable?.(cable);
							}}
							onPointerEnter={() => {
								if (start.current !== null) setPicked(within(start.current, index));
							}}
						>
							<Socket hole={hole} picked={picked} marked={marked} lying={lying} changes={changes} />
						</g>
					))}
				</svg>
			</div>
			<div
				className={`mt-1 flex-wrap gap-x-3 gap-y-0.5 text-[11.5px] text-soft ${plain ? "hidden" : "flex"}`}
			>
				{uses.map((use) => (
					<span key={use} className="flex items-center gap-1">
						<i className="inline-block size-2.5 border border-faint" style={{ background: USES[use]?.[1] }} />
						{USES[use]?.[0] ?? use}
					</span>
				))}
				{changes.size > 0 && !lying && (
					<span className="flex items-center gap-1">
						<i className="hatched-solid inline-block h-1 w-2.5" />
						changed by the draft
					</span>
				)}
				{data.own_plan && <span>planned by itself</span>}
			</div>
			{shown && !plain && picked.length === 1 && (
				<p className="mt-1.5 text-[12.5px]">
					<span className="mono">{shown.name}</span>{" "}
					{shown.peer ? `to ${shown.peer}` : (USES[shown.use]?.[0] ?? "")}
					{shown.cable && <span className="mono text-soft"> {shown.cable}</span>}
					{shown.speed > 0 && ` ${shown.speed}G`}
					{(shown.shut || shown.why) && <span className="text-madder">, {shown.shut || shown.why}</span>}
				</p>
			)}
			{kind && mayEdit && (
				<PlanPorts
					fabric={fabric}
					name={name}
					kind={kind}
					picked={picked}
					breakouts={[
						...new Set(
							holes
								.filter((hole) => hole.ports.some((port) => picked.includes(port.name)))
								.flatMap((hole) => hole.breakouts),
						),
					]}
					broken={holes.some((hole) => hole.ports.length > 1 && picked.includes(hole.ports[0]?.name ?? ""))}
					onDone={() => setPicked([])}
					onPick={(text) => setPicked(spread(text))}
				/>
			)}
		</div>
	);
}

function Socket({
	hole,
	picked,
	marked,
	lying,
	changes,
}: Pick<Props, "marked" | "lying"> & {
	hole: Hole;
	picked: string[];
	changes: ReadonlyMap<string, PortChange>;
}) {
	const lanes = hole.ports.length;
	const side = CELL - 3;
	return (
		<>
			<rect x={hole.x} y={hole.y} width={CELL} height={CELL} fill="transparent" />
			{hole.ports.map((port, lane) => {
				const width = lanes > 1 ? side / lanes : side;
				const x = hole.x + 1 + lane * width;
				const on = picked.includes(port.name);
				const used = port.peer !== "" || port.use === "host" || port.use === "outside";
				const fill = USES[port.use]?.[1] ?? "transparent";
				return (
					<g key={port.name}>
						<title>
							{`${port.name}: ${USES[port.use]?.[0] ?? port.use}${port.peer ? `, ${port.peer}` : ""}${port.shut ? `, ${port.shut}` : ""}${SAID[lying?.get(port.cable) ?? ""] ?? ""}${DRAFTED[changes.get(port.name) ?? ""] ?? ""}`}
						</title>
						<rect
							data-marked={port.name === marked || undefined}
							x={x}
							y={hole.y + 1}
							width={Math.max(1.5, width - (lanes > 1 ? 1 : 0))}
							height={side}
							fill={used || port.use === "reserved" || port.use === "dark" ? fill : "transparent"}
							fillOpacity={port.use === "host" ? 0.55 : 1}
							stroke={
								on || port.name === marked
									? "var(--indigo)"
									: used
										? "none"
										: fill === "transparent"
											? "var(--faint)"
											: fill
							}
							strokeWidth={on || port.name === marked ? 2 : 1}
						/>
						{!lying && changes.has(port.name) && (
							<path
								data-drafted={changes.get(port.name)}
								d={
									changes.get(port.name) === "goes"
										? `M${x} ${hole.y + 1}h${width / 3}l${-width / 3} ${side / 3}z`
										: `M${x} ${hole.y + side - 4}h${width}v5h${-width}z`
								}
								fill={changes.get(port.name) === "goes" ? "var(--madder)" : "url(#changed)"}
								stroke="var(--paper)"
								strokeWidth="0.8"
							/>
						)}
						{lying?.get(port.cable) === "laid" && (
							<rect
								x={x}
								y={hole.y + side - 3}
								width={width}
								height="4"
								fill="var(--moss)"
								stroke="var(--paper)"
								strokeWidth="0.8"
							/>
						)}
						{lying?.get(port.cable) === "wrong" && (
							<path
								d={`M${x} ${hole.y + 1}h${width}l${-width / 2} ${side / 2}z`}
								fill="var(--madder)"
								stroke="var(--paper)"
								strokeWidth="0.8"
							/>
						)}
						{port.shut && (
							<path d={`M${x} ${hole.y + 1}l${width} ${side}`} stroke="var(--madder)" strokeWidth="1.6" />
						)}
						{port.use === "reserved" && (
							<path
								d={`M${x + 2} ${hole.y + side - 1}L${x + side - 2} ${hole.y + 3}`}
								stroke="var(--paper)"
								strokeWidth="1.2"
							/>
						)}
					</g>
				);
			})}
		</>
	);
}

/** `u1..u3, h4` as its ports. */
function spread(text: string): string[] {
	return text.split(",").flatMap((part) => {
		const range = /^\s*([a-z][a-z/]*?)(\d+)\.\.\1?(\d+)\s*$/.exec(part);
		if (!range) return part.trim() ? [part.trim()] : [];
		const [, stem = "", low = "0", high = "0"] = range;
		const count = Math.max(0, Number(high) - Number(low) + 1);
		return Array.from({ length: Math.min(count, 2048) }, (_, index) => `${stem}${Number(low) + index}`);
	});
}

function PlanPorts({
	fabric,
	name,
	kind,
	picked,
	breakouts,
	broken,
	onDone,
	onPick,
}: {
	fabric: Fabric;
	name: string;
	kind: string;
	picked: string[];
	breakouts: string[];
	broken: boolean;
	onDone: () => void;
	onPick: (text: string) => void;
}) {
	const change = useChange(fabric.name, true);
	const [scope, setScope] = useState<"switch" | "kind">("switch");
	const leaf = kind === "leaf" || kind === "border";
	const choices: [string, string][] = [
		["uplinks", "uplinks"],
		...(leaf
			? ([
					["hosts", "hosts"],
					["peer", "peer link"],
				] as [string, string][])
			: ([["downlinks", "downlinks"]] as [string, string][])),
		["reserved", "reserved"],
		...breakouts.map((mode): [string, string] => [mode, `broken out ${mode}G`]),
		...(broken ? ([["whole", "whole again"]] as [string, string][]) : []),
	];
	return (
		<details className="mt-1.5">
			<summary className="cursor-pointer text-[12.5px] text-indigo">Plan these ports</summary>
			<p className="my-1 text-[12px] text-soft">Drag over the front, or type, then say what they serve.</p>
			<input
				className="field mono mb-1.5 w-full"
				aria-label="Ports to plan"
				placeholder="u7..u8"
				value={picked.length > 4 ? `${picked[0]}..${picked.at(-1)}` : picked.join(", ")}
				onChange={(event) => onPick(event.target.value)}
			/>
			<fieldset className="mb-1.5 flex gap-3 text-[12.5px]">
				<legend className="sr-only">For which switches</legend>
				{(
					[
						["switch", name],
						["kind", leaf ? "all of its kind" : "all of its tier"],
					] as const
				).map(([value, label]) => (
					<label key={value} className="flex items-center gap-1">
						<input type="radio" name="scope" checked={scope === value} onChange={() => setScope(value)} />
						{label}
					</label>
				))}
			</fieldset>
			<div className="flex flex-wrap gap-x-3 gap-y-1">
				{choices.map(([use, label]) => (
					<button
						key={use}
						type="button"
						className="button-plain"
						disabled={!picked.length || change.isPending}
						onClick={() =>
							change.mutate({ kind: "ports", switch: name, ports: picked, use, scope }, { onSuccess: onDone })
						}
					>
						{label}
					</button>
				))}
			</div>
			{change.error && (
				<p role="alert" className="mt-1 border-madder border-l-4 pl-2 text-madder">
					{change.error.message}
				</p>
			)}
		</details>
	);
}
