/** The Weave with how far each switch is: a thread is whole once all of its marks are done. */
import { useWeave } from "../../api/queries";
import { useOpenFabric } from "../../app/open";
import type { Step } from "./scene";
import { WeavePicture } from "./weave";

interface Props {
	label: string;
	/** The marks of each switch, by its name. */
	standing: ReadonlyMap<string, readonly Step[]>;
	/** The switch that is chosen, by its name. */
	chosen: string | undefined;
	find?: string;
	onChoose: (at: { name?: string; rack?: string }) => void;
}

export function StoodWeave({ label, standing, chosen, find = "", onChoose }: Props) {
	const fabric = useOpenFabric();
	const weave = useWeave(fabric.name, fabric.version).data;
	if (!weave) return <p className="p-3 text-soft">The Weave is drawn…</p>;
	const leaf = weave.leaves.some((one) => one.name === chosen);
	return (
		<section aria-label={label} className="relative mt-9 flex min-h-[300px] flex-1">
			<WeavePicture
				weave={weave}
				chosen={leaf ? { leaf: chosen } : { spine: chosen }}
				find={find}
				standing={standing}
				onChoose={(at) => onChoose({ name: at.leaf ?? at.spine, rack: at.racks?.split("..")[0] })}
			/>
		</section>
	);
}
