/** The copy of the office's files that is being worked on, kept in this tab until it is saved or dropped. */
import { useCallback, useEffect, useState } from "react";
import type { Files, Office } from "./queries";

export interface Copy {
	/** The edition that it was made from. */
	number: number;
	files: Files;
}

/** The file that says settings and declares variables. */
export const SAID = "office.yaml";

export const saidFirst = `# What holds for every fabric; a fabric, and closer rungs in it, may say otherwise.
settings: {}

# Variables of one's own, used in templates as vars.name.
variables: {}
`;

const KEPT = "unsaved office";

function kept(): Copy | null {
	const text = sessionStorage.getItem(KEPT);
	return text ? (JSON.parse(text) as Copy) : null;
}

/** The paths at which two sets of files are other than each other. */
export function changed(before: Files, after: Files): string[] {
	const paths = new Set([...Object.keys(before), ...Object.keys(after)]);
	return [...paths].filter((path) => before[path] !== after[path]).sort();
}

/** The files in the folder of a target, by their names. */
export function ofTarget(files: Files, target: string): Files {
	const folder = `targets/${target}/`;
	return Object.fromEntries(
		Object.entries(files)
			.filter(([path]) => path.startsWith(folder))
			.map(([path, text]) => [path.slice(folder.length), text]),
	);
}

/** The names of the targets that files are of. */
export const targetsIn = (files: Files): string[] =>
	[...new Set(Object.keys(files).map((path) => path.split("/")[1] ?? ""))].filter(Boolean).sort();

export function useCopy(office: Office) {
	const [copy, setCopy] = useState<Copy>(() => kept() ?? { number: office.number, files: office.files });
	const dirty = changed(office.files, copy.files);
	useEffect(() => {
		if (copy.files === office.files) sessionStorage.removeItem(KEPT);
		else sessionStorage.setItem(KEPT, JSON.stringify(copy));
	}, [copy, office.files]);
	// Nothing of one's own: what is newer is simply taken.
	useEffect(() => {
		if (copy.number !== office.number && sessionStorage.getItem(KEPT) === null)
			setCopy({ number: office.number, files: office.files });
	}, [copy.number, office]);
	const write = useCallback(
		(path: string, text: string | null) =>
			setCopy((was) => {
				const { [path]: _, ...others } = was.files;
				return { ...was, files: text === null ? others : { ...was.files, [path]: text } };
			}),
		[],
	);
	const take = useCallback((next: Copy) => setCopy(next), []);
	return { copy, dirty, write, take };
}

/** A target to begin with: its manifest, and one template that says who the switch is. */
export function begun(target: string): Files {
	return {
		[`targets/${target}/target.yaml`]: `target: ${target}
title: ""
comment: "!"

files:
  - path: startup.cfg
    template: startup.j2

# How the text is read back: what a line says, and the lines that begin the blocks around it.
reads:
  - {line: "name {name}"}

# What files need not say, by its path in the model, each with why.
leaves_out:
  "*": not written yet
`,
		[`targets/${target}/startup.j2`]: `name {{ sw.name }}
{% for port in sw.fabric_ports %}
port {{ port.label }} to {{ port.peer }} {{ port.peer_port }}
{% endfor %}
`,
	};
}
