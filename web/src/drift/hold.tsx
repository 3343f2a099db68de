/** Saved outputs, as somebody brings them, held against what was meant. */
import { useRef } from "react";
import type { Fabric } from "../api/client";
import { useHold } from "./queries";

export function HoldButton({ fabric }: { fabric: Fabric }) {
	const field = useRef<HTMLInputElement>(null);
	const hold = useHold(fabric);
	return (
		<>
			<input
				ref={field}
				type="file"
				hidden
				accept=".zip,.tgz,.gz,application/zip,application/gzip"
				aria-label="Saved outputs"
				onChange={(event) => {
					const file = event.target.files?.[0];
					event.target.value = "";
					if (file) hold.mutate(file);
				}}
			/>
			<button
				type="button"
				className="button-plain"
				disabled={hold.isPending}
				title="A ZIP or tar.gz of what was saved of switches, a folder for each"
				onClick={() => field.current?.click()}
			>
				{hold.isPending ? "They are held against the plan…" : "Hold saved outputs"}
			</button>
		</>
	);
}
