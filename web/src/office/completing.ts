/** What may stand at a place of a template: paths of the model, loops' own, and filters, each with its sentence. */
import type { Completion, CompletionContext, CompletionResult } from "@codemirror/autocomplete";
import type { Words } from "./queries";

/** The loops that a place stands in, by their variable: what each runs over. */
export function loopsAt(text: string): Map<string, string> {
	const open: [string, string][] = [];
	for (const found of text.matchAll(/\{%-?\s*(?:(for)\s+(\w+)\s+in\s+([\w.]+)|(endfor))/g)) {
		if (found[1]) open.push([found[2] ?? "", found[3] ?? ""]);
		else open.pop();
	}
	return new Map(open);
}

/** The path of the model that a variable's list is: `port` in `sw.pair.ports` → `sw.pair.ports`. */
function whole(path: string, loops: Map<string, string>, words: Words): string {
	const [first = "", ...rest] = path.split(".");
	const over = loops.get(first);
	if (over === undefined) return path;
	const of = whole(over, loops, words);
	const named = words.paths.find((one) => one.of === of)?.path.split(".")[0] ?? first;
	return [named, ...rest].join(".");
}

/** What may follow a word such as `sw.` or `port.`; the word is what stands before the cursor. */
export function following(word: string, before: string, words: Words): Completion[] {
	const loops = loopsAt(before);
	const dot = word.lastIndexOf(".");
	if (dot < 0) {
		const names: Completion[] = [
			{ label: "sw", detail: "the switch", type: "variable" },
			{ label: "vars", detail: "variables of one’s own", type: "variable" },
			...[...loops].map(([label, over]) => ({ label, detail: `one of ${over}`, type: "variable" })),
		];
		return names;
	}
	const stem = word.slice(0, dot);
	const first = stem.split(".")[0] ?? "";
	const of = loops.has(first) ? whole(loops.get(first) ?? "", loops, words) : "sw";
	const as = whole(stem, loops, words);
	return words.paths
		.filter(
			(one) => one.of === of && one.path.startsWith(`${as}.`) && !one.path.slice(as.length + 1).includes("."),
		)
		.map((one) => ({
			label: one.path.slice(as.length + 1),
			detail: one.kind,
			info: one.words || undefined,
			type: "property",
		}));
}

/** Completion within braces; nothing outside, where text is the language's own. */
export const completing =
	(words: () => Words | undefined) =>
	(context: CompletionContext): CompletionResult | null => {
		const found = words();
		const before = context.state.sliceDoc(0, context.pos);
		const open = Math.max(before.lastIndexOf("{{"), before.lastIndexOf("{%"));
		if (!found || open < 0 || /[}%]\}/.test(before.slice(open))) return null;
		const filter = context.matchBefore(/\|\s*\w*/);
		if (filter) {
			const from = filter.from + (/^\|\s*/.exec(filter.text)?.[0].length ?? 0);
			const options = Object.entries(found.filters).map(([label, info]) => ({
				label,
				info,
				type: "function",
			}));
			return { from, options, validFor: /^\w*$/ };
		}
		const word = context.matchBefore(/[\w.]+/);
		if (!word && !context.explicit) return null;
		const text = word?.text ?? "";
		const from = (word?.from ?? context.pos) + text.lastIndexOf(".") + 1;
		return { from, options: following(text, before, found), validFor: /^\w*$/ };
	};
