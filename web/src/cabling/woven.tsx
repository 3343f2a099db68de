/** The Weave with what is laid: a square on each crossing, filled as far as its links are laid. */
import { useMemo } from "react";
import type { CableRow } from "../api/client";
import { useWeave } from "../api/queries";
import { useOpenFabric } from "../app/open";
import type { Lying } from "../brief/weave/scene";
import { WeavePicture } from "../brief/weave/weave";

interface Props {
	cables: CableRow[];
	lying: ReadonlyMap<string, Lying>;
	chosen: CableRow | undefined;
	onCable: (label: string) => void;
}

export function Woven({ cables, lying, chosen, onCable }: Props) {
	const fabric = useOpenFabric();
	const weave = useWeave(fabric.name, fabric.version).data;
	const laying = useMemo(() => {
		const found = new Map<string, Lying>();
		for (const cable of cables) {
			const how = lying.get(cable.label);
			if (how) found.set(cable.link, how);
		}
		return found;
	}, [cables, lying]);
	if (!weave) return null;
	return (
		<section aria-label="What is laid, on the Weave" className="relative mt-7 flex min-h-0 flex-1">
			<WeavePicture
				weave={weave}
				chosen={{ leaf: chosen?.a_switch, spine: chosen?.b_switch }}
				find=""
				laying={laying}
				onChoose={({ leaf, spine }) => {
					const cable = cables.find(
						(one) => (!leaf || one.a_switch === leaf) && (!spine || one.b_switch === spine),
					);
					if (cable && (leaf || spine)) onCable(cable.label);
				}}
			/>
		</section>
	);
}
