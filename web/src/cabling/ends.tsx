/** What is at the ends: both racks to the unit, both fronts, and the cable from hole to hole. */
import { useLayoutEffect, useRef, useState } from "react";
import type { CableRow } from "../api/client";
import { useOpenFabric } from "../app/open";
import { FaceView } from "../brief/margin/face";
import type { Lying } from "../brief/weave/scene";
import { RackElevation } from "./elevation";
import { useElevation } from "./queries";

const TALL = 268;

interface Props {
	cable: CableRow;
	/** How each cable lies, by its label. */
	lying: ReadonlyMap<string, Lying>;
	onOpen: (label: string) => void;
}

export function Ends({ cable, lying, onOpen }: Props) {
	const one = useElevation(cable.a_rack).data;
	const other = useElevation(cable.b_rack !== cable.a_rack ? cable.b_rack : "").data;
	return (
		<section aria-label={`The ends of ${cable.label}`} className="flex min-h-0 gap-4 overflow-auto pb-3">
			{one && <RackElevation rack={one} tall={TALL} marked={cable.a_switch} />}
			{other && <RackElevation rack={other} tall={TALL} marked={cable.b_switch} />}
			<Faces cable={cable} lying={lying} onOpen={onOpen} />
		</section>
	);
}

/** Both fronts with the cable drawn between their holes. */
function Faces({ cable, lying, onOpen }: Props) {
	const fabric = useOpenFabric();
	const box = useRef<HTMLDivElement>(null);
	const [ends, setEnds] = useState<[number, number, number, number] | null>(null);
	const key = `${cable.label} ${fabric.version}`;
	// biome-ignore lint/correctness/useExhaustiveDependencies: another cable has other holes
	useLayoutEffect(() => {
		const find = () => {
			const edge = box.current?.getBoundingClientRect();
			const holes = [...(box.current?.querySelectorAll("[data-marked]") ?? [])].map((hole) =>
				hole.getBoundingClientRect(),
			);
			const [one, other] = holes;
			if (!edge || !one || !other) return setEnds(null);
			const upper = one.top < other.top ? one : other;
			const lower = upper === one ? other : one;
			setEnds([
				upper.left + upper.width / 2 - edge.left,
				upper.bottom - edge.top,
				lower.left + lower.width / 2 - edge.left,
				lower.top - edge.top,
			]);
		};
		find();
		const watch = new MutationObserver(find);
		if (box.current) watch.observe(box.current, { childList: true, subtree: true });
		return () => watch.disconnect();
	}, [key]);
	return (
		<div ref={box} className="relative min-w-[330px] flex-1">
			<Face cable={cable} lying={lying} end="a" onOpen={onOpen} />
			<div className="h-14" />
			{cable.b_rack && <Face cable={cable} lying={lying} end="b" onOpen={onOpen} />}
			{ends && (
				<svg className="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
					<path
						d={`M${ends[0]} ${ends[1]}C${ends[0]} ${ends[1] + 70} ${ends[2]} ${ends[3] - 70} ${ends[2]} ${ends[3]}`}
						fill="none"
						stroke="var(--indigo)"
						strokeWidth="2.4"
					/>
				</svg>
			)}
		</div>
	);
}

function Face({ cable, lying, end, onOpen }: Props & { end: "a" | "b" }) {
	const fabric = useOpenFabric();
	const [name, port, unit, rack] =
		end === "a"
			? [cable.a_switch, cable.a_port, cable.a_unit, cable.a_rack]
			: [cable.b_switch, cable.b_port, cable.b_unit, cable.b_rack];
	return (
		<div>
			<div className="mb-1 flex items-baseline gap-2">
				<b className="mono font-semibold">
					{name} {port}
				</b>
				<span className="label-small">
					{rack}, U{unit}
				</span>
			</div>
			<FaceView fabric={fabric} name={name} marked={port} plain lying={lying} onCable={onOpen} />
		</div>
	);
}
