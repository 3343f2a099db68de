/** The brief as text: the same document as YAML, checked while one types, saved with Ctrl+S. */
import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, linter, lintGutter } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useCallback, useEffect, useRef, useState } from "react";
import { client, type Fabric, Failure, got, type Trial } from "../api/client";
import { useChange } from "../api/edits";
import { useMay } from "../api/session";
import { useNotices } from "../ui/notices";
import { useSetTrial } from "./sums/trial";

const threads = HighlightStyle.define([
	{ tag: [tags.propertyName, tags.definition(tags.propertyName)], color: "var(--indigo)" },
	{ tag: tags.comment, color: "var(--faint)" },
	{ tag: [tags.string, tags.content], color: "var(--ink)" },
	{ tag: [tags.punctuation, tags.separator], color: "var(--soft)" },
]);

interface Props {
	fabric: Written;
	line: number;
	/** Leads back to the prose, where there is any. */
	onClose?: () => void;
}

/** A draft's text and the version that it is of. */
type Written = Pick<Fabric, "name" | "version" | "text">;

export function BriefText({ fabric, line, onClose }: Props) {
	const host = useRef<HTMLDivElement>(null);
	const view = useRef<EditorView | null>(null);
	const [kept] = useState(() => unsaved(fabric.name));
	const [dirty, setDirty] = useState(kept !== null && kept.text !== fabric.text);
	const [wrong, setWrong] = useState("");
	const change = useChange(fabric.name);
	const may = useMay("edit", fabric.name);
	const latest = useRef(fabric);
	latest.current = fabric;
	/** The version that the text being edited was made from. */
	const base = useRef(kept?.version ?? fabric.version);
	const { tell } = useNotices();
	const setTrial = useSetTrial();
	useEffect(() => () => setTrial(null), [setTrial]);
	const outdated = dirty && base.current !== fabric.version;

	const save = useCallback(() => {
		const text = view.current?.state.doc.toString();
		if (text === undefined || text === latest.current.text) return true;
		if (base.current !== latest.current.version)
			tell({
				tone: "changed",
				text: "Your text was made from an older draft, so it was not saved over the newer one. Take the newer text, then make your change in it.",
			});
		else change.mutate({ kind: "text", text });
		return true;
	}, [change.mutate, tell]);

	useEffect(() => {
		if (!host.current) return;
		const editor = new EditorView({
			parent: host.current,
			state: EditorState.create({
				doc: unsaved(latest.current.name)?.text ?? latest.current.text,
				extensions: [
					lineNumbers(),
					history(),
					drawSelection(),
					highlightActiveLine(),
					yaml(),
					syntaxHighlighting(threads),
					lintGutter(),
					linter(
						async (editorView) => {
							const found = await faultsOf(latest.current, editorView.state, setTrial);
							const first = found[0];
							setWrong(
								first ? `Line ${editorView.state.doc.lineAt(first.from).number}: ${first.message}` : "",
							);
							return found;
						},
						{ delay: 350 },
					),
					EditorState.readOnly.of(!may),
					EditorView.contentAttributes.of({ "aria-label": "The brief as YAML" }),
					EditorView.updateListener.of((update) => {
						if (!update.docChanged) return;
						const text = update.state.doc.toString();
						const { name, text: saved } = latest.current;
						setDirty(text !== saved);
						keep(name, text === saved ? null : { version: base.current, text });
					}),
					keymap.of([
						{ key: "Mod-s", run: save },
						{ key: "Escape", run: leave },
						indentWithTab,
						...defaultKeymap,
						...historyKeymap,
					]),
				],
			}),
		});
		view.current = editor;
		// What scrolls can be reached by keyboard.
		editor.scrollDOM.tabIndex = 0;
		editor.focus();
		// A draft saves by itself: what was typed is kept when one turns to something else.
		return () => {
			save();
			editor.destroy();
		};
	}, [save, setTrial, may]);

	// A newer text replaces what is shown, unless someone is in the middle of typing here.
	useEffect(() => {
		const editor = view.current;
		if (!editor) return;
		if (!dirty && editor.state.doc.toString() !== fabric.text) replace(editor, fabric.text);
		if (editor.state.doc.toString() !== fabric.text) return;
		base.current = fabric.version;
		keep(fabric.name, null);
		setDirty(false);
	}, [fabric.name, fabric.text, fabric.version, dirty]);

	const takeNewer = () => {
		if (view.current) replace(view.current, fabric.text);
	};

	useEffect(() => {
		const editor = view.current;
		if (!editor || line < 1 || line > editor.state.doc.lines) return;
		const { from } = editor.state.doc.line(line);
		editor.dispatch({
			selection: { anchor: from },
			effects: EditorView.scrollIntoView(from, { y: "center" }),
		});
	}, [line]);

	return (
		<div className="flex min-h-0 flex-1 flex-col">
			<div className="flex items-center gap-4 border-b border-hair pb-2">
				<h1 className="text-[15px] font-bold">{fabric.name}.yaml</h1>
				<span className="text-soft">
					{outdated ? "made from an older draft" : dirty ? "not saved yet" : "as saved"}
				</span>
				{outdated && (
					<button type="button" className="button-plain" onClick={takeNewer}>
						Take the newer text
					</button>
				)}
				<button
					type="button"
					className="button-main ml-auto"
					disabled={!dirty || change.isPending}
					title="Ctrl S"
					onClick={save}
				>
					Save
				</button>
				{onClose && (
					<button type="button" className="button-plain" title="Esc, then T" onClick={onClose}>
						As prose
					</button>
				)}
			</div>
			{wrong && (
				<p role="status" className="border-b border-l-4 border-hair border-l-madder py-1.5 pl-3 text-madder">
					{wrong}
				</p>
			)}
			<div ref={host} className="min-h-0 flex-1 overflow-hidden" />
		</div>
	);
}

interface Unsaved {
	version: number;
	text: string;
}

/** Text that was typed and not saved, kept in this tab until it is saved or dropped. */
function unsaved(name: string): Unsaved | null {
	const text = sessionStorage.getItem(`text of ${name}`);
	return text ? (JSON.parse(text) as Unsaved) : null;
}

function keep(name: string, text: Unsaved | null): void {
	if (text) sessionStorage.setItem(`text of ${name}`, JSON.stringify(text));
	else sessionStorage.removeItem(`text of ${name}`);
}

function replace(editor: EditorView, text: string) {
	editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: text } });
}

function leave(editor: EditorView): boolean {
	editor.contentDOM.blur();
	return true;
}

/** What is wrong with a text; when nothing is, its sums are shown beside the picture at once. */
async function faultsOf(
	fabric: Written,
	state: EditorState,
	setTrial: (trial: Trial | null) => void,
): Promise<Diagnostic[]> {
	const text = state.doc.toString();
	if (text === fabric.text) {
		setTrial(null);
		return [];
	}
	try {
		const { sums } = await got(
			client.POST("/api/v1/fabrics/{name}/check", {
				params: { path: { name: fabric.name } },
				body: { version: fabric.version, text, note: "" },
			}),
		);
		setTrial({ sums, findings: [], faults: [] });
		return [];
	} catch (error) {
		setTrial(null);
		if (!(error instanceof Failure)) throw error;
		return (error.problem.faults ?? []).map((fault) => {
			const at = state.doc.line(Math.max(1, Math.min(state.doc.lines, fault.line || 1)));
			return {
				from: Math.min(at.to, at.from + Math.max(0, (fault.column || 1) - 1)),
				to: at.to,
				severity: "error",
				message: fault.message,
			};
		});
	}
}
