/** A word that stands for a thing with several fields: a segment, a group of racks, a user. */
import * as Popover from "@radix-ui/react-popover";
import { type ReactNode, useState } from "react";
import { useChange } from "../../api/edits";
import { useOpenFabric } from "../../app/open";
import { Refusal } from "../../app/refusal";
import { WordPanel } from "./word";

export interface Field {
	name: string;
	label: string;
	value: string;
	placeholder?: string;
	choices?: [string, string][];
	long?: boolean;
}

interface Props {
	children: ReactNode;
	title: string;
	fields: Field[];
	/** The edits that the filled-in fields make, and what to call them. */
	edits: (values: Record<string, string>) => [string, unknown][];
	note: (values: Record<string, string>) => string;
	/** Values to begin with, by what each is called. */
	offers?: { label: string; values: Record<string, string> }[];
	remove?: { edits: [string, unknown][]; note: string };
	changedPath?: string;
	plain?: boolean;
	verb?: string;
}

export function FormWord(props: Props) {
	const fabric = useOpenFabric();
	const [open, setOpen] = useState(false);
	const { changedPath } = props;
	const changed =
		changedPath && fabric.changed.some((one) => one === changedPath || one.startsWith(`${changedPath}.`));
	return (
		<Popover.Root open={open} onOpenChange={setOpen}>
			<Popover.Trigger
				data-word
				className={props.plain ? "button-plain" : `word ${changed ? "changed" : ""}`}
			>
				{props.children}
			</Popover.Trigger>
			<WordPanel width={380}>
				<Form {...props} onDone={() => setOpen(false)} />
			</WordPanel>
		</Popover.Root>
	);
}

function Form({
	title,
	fields,
	edits,
	note,
	remove,
	offers = [],
	onDone,
	verb = "Change it",
}: Props & { onDone: () => void }) {
	const fabric = useOpenFabric();
	const change = useChange(fabric.name, true);
	const [values, setValues] = useState(() =>
		Object.fromEntries(fields.map((field) => [field.name, field.value])),
	);
	const set = (name: string, value: string) => setValues((before) => ({ ...before, [name]: value }));
	const take = (list: [string, unknown][], called: string) =>
		list.length
			? change.mutate({ kind: "edit", edits: list, note: called }, { onSuccess: onDone })
			: onDone();
	return (
		<form
			onSubmit={(event) => {
				event.preventDefault();
				take(edits(values), note(values));
			}}
		>
			<h3 className="mb-2 font-bold">{title}</h3>
			{change.error && <Refusal failure={change.error} />}
			{offers.length > 0 && (
				<p className="mb-2 flex flex-wrap gap-x-3">
					{offers.map((one) => (
						<button
							key={one.label}
							type="button"
							className="button-plain"
							onClick={() => setValues((before) => ({ ...before, ...one.values }))}
						>
							{one.label}
						</button>
					))}
				</p>
			)}
			<div className="grid grid-cols-[auto_1fr] items-center gap-x-3 gap-y-1.5">
				{fields.map((field) => (
					// biome-ignore lint/a11y/noLabelWithoutControl: Input is the control
					<label key={field.name} className="contents">
						<span className="text-soft">{field.label}</span>
						<Input field={field} value={values[field.name] ?? ""} set={(value) => set(field.name, value)} />
					</label>
				))}
			</div>
			<div className="mt-3 flex gap-5">
				<button type="submit" className="button-main" disabled={change.isPending}>
					{verb}
				</button>
				{remove && (
					<button
						type="button"
						className="button-plain ml-auto"
						onClick={() => take(remove.edits, remove.note)}
					>
						Take it out
					</button>
				)}
			</div>
		</form>
	);
}

function Input({ field, value, set }: { field: Field; value: string; set: (value: string) => void }) {
	if (field.choices)
		return (
			<select className="field" value={value} onChange={(event) => set(event.target.value)}>
				{field.choices.map(([choice, label]) => (
					<option key={choice} value={choice}>
						{label}
					</option>
				))}
			</select>
		);
	const common = {
		className: `field mono min-w-0 ${field.long ? "h-20" : ""}`,
		value,
		placeholder: field.placeholder,
		spellCheck: false,
	};
	return field.long ? (
		<textarea {...common} onChange={(event) => set(event.target.value)} />
	) : (
		<input {...common} onChange={(event) => set(event.target.value)} />
	);
}
