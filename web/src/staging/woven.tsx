/** The roll as the Weave: a thread is whole once its switch is handed over, and by each name are its steps. */
import { useMemo } from "react";
import { useWeave } from "../api/queries";
import { useOpenFabric } from "../app/open";
import { WeavePicture } from "../brief/weave/weave";
import type { Line } from "./line";

interface Props {
	lines: readonly Line[];
	chosen: Line | undefined;
	find: string;
	onChoose: (name: string) => void;
}

export function Woven({ lines, chosen, find, onChoose }: Props) {
	const fabric = useOpenFabric();
	const weave = useWeave(fabric.name, fabric.version).data;
	const standing = useMemo(() => new Map(lines.map((one) => [one.name, one.marks])), [lines]);
	if (!weave) return <p className="p-3 text-soft">The Weave is drawn…</p>;
	const leaf = weave.leaves.some((one) => one.name === chosen?.name);
	return (
		<section aria-label="The roll call, on the Weave" className="relative mt-9 flex min-h-[300px] flex-1">
			<WeavePicture
				weave={weave}
				chosen={leaf ? { leaf: chosen?.name } : { spine: chosen?.name }}
				find={find}
				standing={standing}
				onChoose={({ leaf, spine, racks }) => {
					const first = racks && lines.find((one) => one.rack === racks.split("..")[0]);
					const name = leaf ?? spine ?? (first ? first.name : "");
					if (name) onChoose(name);
				}}
			/>
		</section>
	);
}
