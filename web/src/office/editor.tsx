/** One file of the office: a template or a manifest, with completion, and what is wrong under its line. */
import { autocompletion, completionKeymap } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { jinja } from "@codemirror/lang-jinja";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, lintGutter, setDiagnostics } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";
import type { Fault } from "../api/client";
import { completing } from "./completing";
import type { Words } from "./queries";

const threads = HighlightStyle.define([
	{ tag: [tags.propertyName, tags.variableName, tags.definition(tags.propertyName)], color: "var(--indigo)" },
	{ tag: [tags.keyword, tags.controlKeyword, tags.operatorKeyword], color: "var(--madder)" },
	{ tag: [tags.brace, tags.special(tags.brace)], color: "var(--madder)" },
	{ tag: [tags.comment, tags.blockComment], color: "var(--faint)", fontStyle: "italic" },
	{ tag: [tags.string, tags.number], color: "var(--woad-ink)" },
	{ tag: [tags.punctuation, tags.separator, tags.operator], color: "var(--soft)" },
]);

interface Props {
	path: string;
	text: string;
	faults: readonly Fault[];
	words: Words | undefined;
	readOnly: boolean;
	onText: (text: string) => void;
}

export function Editor({ path, text, faults, words, readOnly, onText }: Props) {
	const host = useRef<HTMLDivElement>(null);
	const view = useRef<EditorView | null>(null);
	const latest = useRef({ text, words, onText });
	latest.current = { text, words, onText };

	useEffect(() => {
		if (!host.current) return;
		const editor = new EditorView({
			parent: host.current,
			state: EditorState.create({
				doc: latest.current.text,
				extensions: [
					lineNumbers(),
					history(),
					drawSelection(),
					highlightActiveLine(),
					path.endsWith(".j2") ? jinja() : yaml(),
					syntaxHighlighting(threads),
					lintGutter(),
					...(path.endsWith(".j2")
						? [autocompletion({ override: [completing(() => latest.current.words)], icons: false })]
						: []),
					EditorState.readOnly.of(readOnly),
					EditorView.contentAttributes.of({ "aria-label": path }),
					EditorView.updateListener.of((update) => {
						if (update.docChanged) latest.current.onText(update.state.doc.toString());
					}),
					keymap.of([...completionKeymap, indentWithTab, ...defaultKeymap, ...historyKeymap]),
				],
			}),
		});
		view.current = editor;
		editor.scrollDOM.tabIndex = 0;
		return () => editor.destroy();
	}, [path, readOnly]);

	useEffect(() => {
		const editor = view.current;
		if (editor && editor.state.doc.toString() !== text)
			editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: text } });
	}, [text]);

	useEffect(() => {
		const editor = view.current;
		if (editor) editor.dispatch(setDiagnostics(editor.state, placed(editor.state, path, faults)));
	}, [path, faults]);

	return <div ref={host} className="min-h-0 flex-1 overflow-hidden" />;
}

/** The faults of this file, each at its line. */
function placed(state: EditorState, path: string, faults: readonly Fault[]): Diagnostic[] {
	return faults
		.filter((fault) => fault.path === path || fault.path?.startsWith(`${path}:`))
		.map((fault) => {
			const at = state.doc.line(Math.max(1, Math.min(state.doc.lines, fault.line || 1)));
			return { from: at.from, to: at.to, severity: "error", message: fault.message };
		});
}
