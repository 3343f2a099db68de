/** Saved outputs to look at: an archive, and the name that the fabric is to have. */
import { useState } from "react";
import { useNavigate } from "react-router";
import { Refusal } from "../app/refusal";
import { useLook } from "./queries";

interface Props {
	/** The fabric's name, where it is known. */
	name?: string;
	onDone?: () => void;
}

export function LookForm({ name: known, onDone }: Props) {
	const [name, setName] = useState(known ?? "");
	const [file, setFile] = useState<File>();
	const look = useLook();
	const navigate = useNavigate();
	return (
		<form
			className="flex flex-col gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				if (!file) return;
				look.mutate(
					{ name: name.trim(), file },
					{
						onSuccess: (found) => {
							onDone?.();
							navigate(`/adopt/${found.fabric}`);
						},
					},
				);
			}}
		>
			<p className="max-w-[70ch] text-soft">
				A ZIP or tar.gz of what was saved of a network that runs: a folder for each switch with its
				etc/frr/frr.conf and etc/network/interfaces, or a file of each session, with what lldpcli and ip -j
				link said. Or a drawing: GraphML, DOT, or links as CSV or RFC 8345. Barrio says what it seems to be;
				nothing enters a draft before you take it.
			</p>
			{known === undefined && (
				<label className="flex flex-col gap-1">
					Name, short and lower case; it stays
					<input
						className="field mono w-64"
						value={name}
						required
						onChange={(event) => setName(event.target.value)}
						placeholder="marlin"
					/>
				</label>
			)}
			<input
				type="file"
				accept=".zip,.tgz,.gz,.graphml,.xml,.dot,.gv,.csv,.json,application/zip,application/gzip"
				aria-label="Saved outputs, or a drawing"
				onChange={(event) => setFile(event.target.files?.[0])}
			/>
			{look.error && <Refusal failure={look.error} />}
			<button type="submit" className="button-main self-start" disabled={look.isPending || !file}>
				{look.isPending ? "It is read…" : "Look at it"}
			</button>
		</form>
	);
}
