/** One cable on the work list: a box to tick, and opened what is read and measured at this end. */
import { useState } from "react";
import type { CableRow } from "../api/client";
import type { Deed, Kind } from "./outbox";
import type { Worked } from "./queries";

interface Props {
	cable: CableRow;
	rack: string;
	worked: Worked | undefined;
	open: boolean;
	may: boolean;
	onOpen: () => void;
	onDeed: (kind: Kind, more?: Partial<Deed>) => void;
}

export function CableWork({ cable, rack, worked, open, may, onOpen, onDeed }: Props) {
	const end = cable.a_rack === rack ? "a" : "b";
	const [mine, other] =
		end === "a"
			? [
					`U${cable.a_unit} ${cable.a_switch} ${cable.a_port}`,
					`${cable.b_rack} ${cable.b_switch} ${cable.b_port}`,
				]
			: [
					`U${cable.b_unit} ${cable.b_switch} ${cable.b_port}`,
					`${cable.a_rack} ${cable.a_switch} ${cable.a_port}`,
				];
	const laid = Boolean(worked?.laid_at);
	return (
		<li className="border-hair/60 border-b py-1.5">
			<div className="flex items-center gap-3">
				<input
					type="checkbox"
					aria-label={`${cable.label} is laid`}
					checked={laid}
					disabled={!may}
					className="size-11 flex-none accent-moss"
					onChange={() => onDeed(laid ? "taken out" : "laid")}
				/>
				<button type="button" className="min-w-0 flex-1 text-left" aria-expanded={open} onClick={onOpen}>
					<span className="flex items-baseline gap-2">
						<b className="mono text-[15px]">{cable.label}</b>
						<span className="text-soft">
							{cable.stock === null ? cable.kind : `${cable.part}, ${cable.stock} m`}
						</span>
					</span>
					<span className="mono block truncate">{mine}</span>
					<span className="mono block truncate text-soft">to {other}</span>
					{worked?.fault && <span className="block text-madder">{worked.fault}</span>}
					{worked?.wrong_label && <span className="block text-madder">{worked.wrong_label}</span>}
				</button>
			</div>
			{open && may && <AtThisEnd end={end} worked={worked} onDeed={onDeed} />}
		</li>
	);
}

function AtThisEnd({ end, worked, onDeed }: Pick<Props, "worked" | "onDeed"> & { end: "a" | "b" }) {
	const scanned = end === "a" ? worked?.scanned_a : worked?.scanned_b;
	const light = end === "a" ? worked?.light_a : worked?.light_b;
	return (
		<div className="mt-2 mb-1 ml-14 grid gap-2">
			<Field
				label={`Label read at this end${scanned ? `: ${scanned}` : ""}`}
				onSay={(text) => onDeed(end === "a" ? "scanned a" : "scanned b", { text })}
			/>
			<Field
				label={`Measured length in metres${worked?.measured ? `: ${worked.measured}` : ""}`}
				number
				onSay={(text) => onDeed("measured", { number: Number(text) })}
			/>
			<Field
				label={`Light received here in dBm${typeof light === "number" ? `: ${light}` : ""}`}
				number
				onSay={(text) => onDeed(end === "a" ? "light a" : "light b", { number: Number(text) })}
			/>
			{worked?.fault ? (
				<button type="button" className="button-plain text-left" onClick={() => onDeed("mended")}>
					The fault is mended
				</button>
			) : (
				<Field label="A fault, in words" onSay={(text) => onDeed("fault", { text })} />
			)}
		</div>
	);
}

function Field({
	label,
	number = false,
	onSay,
}: {
	label: string;
	number?: boolean;
	onSay: (text: string) => void;
}) {
	const [text, setText] = useState("");
	const said = text.trim().replace(",", ".");
	const wrong = number && said !== "" && said !== "-" && Number.isNaN(Number(said));
	return (
		<form
			onSubmit={(event) => {
				event.preventDefault();
				if (!said || wrong) return;
				onSay(number ? said : text.trim());
				setText("");
			}}
		>
			<label className="label-small block">
				{label}
				<span className="mt-0.5 flex gap-2">
					<input
						className="field mono min-h-10 flex-1"
						inputMode={number ? "decimal" : "text"}
						value={text}
						onChange={(event) => setText(event.target.value)}
					/>
					<button type="submit" className="button-main min-h-10" disabled={!said || wrong}>
						Keep
					</button>
				</span>
			</label>
			{wrong && <p className="text-madder">This is no number.</p>}
		</form>
	);
}
