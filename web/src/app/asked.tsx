/** A small form: what is asked for in a few fields, why it could not be, and the button that does it. */
import type { ReactNode } from "react";
import type { Failure } from "../api/client";
import { Refusal } from "./refusal";

interface Props {
	act: { error: Failure | null; isPending: boolean };
	verb: string;
	onTake: () => void;
	/** A button that is not the main thing of the screen. */
	plain?: boolean;
	children: ReactNode;
}

export function Asked({ act, verb, onTake, plain = false, children }: Props) {
	return (
		<form
			className="space-y-2.5"
			onSubmit={(event) => {
				event.preventDefault();
				onTake();
			}}
		>
			{children}
			{act.error && <Refusal failure={act.error} />}
			<button type="submit" className={plain ? "button-plain" : "button-main"} disabled={act.isPending}>
				{verb}
			</button>
		</form>
	);
}

interface FieldProps extends Omit<React.ComponentProps<"input">, "onChange" | "children"> {
	label: string;
	value: string;
	set: (value: string) => void;
	mono?: boolean;
	/** Beside its label instead of under it. */
	beside?: boolean;
}

/** One line to fill in. */
export function Field({ label, set, mono = false, beside = false, className = "", ...input }: FieldProps) {
	return (
		<label className={beside ? "flex items-center gap-2" : "flex flex-col gap-1"}>
			{label}
			<input
				className={`field ${mono ? "mono" : ""} ${className}`}
				onChange={(event) => set(event.target.value)}
				{...input}
			/>
		</label>
	);
}
