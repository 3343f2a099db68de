/** The roll as the Weave: a thread is whole once its switch is handed over, and by each name are its steps. */
import { useMemo } from "react";
import { StoodWeave } from "../brief/weave/stood";
import type { Line } from "./line";

interface Props {
	lines: readonly Line[];
	chosen: Line | undefined;
	find: string;
	onChoose: (name: string) => void;
}

export function Woven({ lines, chosen, find, onChoose }: Props) {
	const standing = useMemo(() => new Map(lines.map((one) => [one.name, one.marks])), [lines]);
	return (
		<StoodWeave
			label="The roll call, on the Weave"
			standing={standing}
			chosen={chosen?.name}
			find={find}
			onChoose={({ name, rack }) => {
				const one = name ?? lines.find((line) => line.rack === rack)?.name;
				if (one) onChoose(one);
			}}
		/>
	);
}
