/** A fabric whose brief does not say yet where racks stand: the one line that does, to be said here. */
import { useState } from "react";
import { useChange } from "../api/edits";
import { MayOnly } from "../app/only";
import { useOpenFabric } from "../app/open";

export function Unplaced() {
	const fabric = useOpenFabric();
	const change = useChange(fabric.name);
	const [pitch, setPitch] = useState("0.6");
	const [row, setRow] = useState("12");
	return (
		<section aria-label="Where racks stand" className="border-weld border-l-4 py-1 pl-4">
			<p>
				Cables have no length yet, since the brief does not say where racks stand. Say it in one line, and
				draw the hall later.
			</p>
			<MayOnly>
				<form
					className="mt-2 flex items-baseline gap-2"
					onSubmit={(event) => {
						event.preventDefault();
						change.mutate({
							kind: "edit",
							edits: [["floor", `racks ${pitch} m apart in rows of ${row}`]],
							note: "said where racks stand",
						});
					}}
				>
					racks
					<input
						className="field mono w-14"
						aria-label="Metres from rack to rack"
						value={pitch}
						onChange={(event) => setPitch(event.target.value)}
					/>
					m apart in rows of
					<input
						className="field mono w-14"
						aria-label="Racks in a row"
						value={row}
						onChange={(event) => setRow(event.target.value)}
					/>
					<button type="submit" className="button-main ml-2" disabled={change.isPending}>
						Work out lengths
					</button>
				</form>
			</MayOnly>
		</section>
	);
}
