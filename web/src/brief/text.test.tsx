/** Claims about the brief as text: it is checked while one types, saved once, and never over a newer draft. */

import { EditorView } from "@codemirror/view";
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { expect, test, vi } from "vitest";
import { type Asked, MARLIN, Refusal, serve, show } from "../testing";
import { SumsBar } from "./sums/sums";
import { TrialRoom } from "./sums/trial";
import { BriefText } from "./text";

const NEW = `${MARLIN.text}# checked\n`;

function opened(answers: Record<string, unknown> = {}) {
	const asked = serve({
		"POST /fabrics/marlin/check": { sums: { ...MARLIN.sums, host_ports: 7777 }, findings: [] },
		"PUT /fabrics/marlin/text": ({ body }: Asked) => ({
			...MARLIN,
			version: 4,
			text: (body as { text: string }).text,
		}),
		...answers,
	});
	return { asked, ...show(<Screen />) };
}

/** The text between its sums and somebody who saves elsewhere. */
function Screen() {
	const [fabric, setFabric] = useState(MARLIN);
	return (
		<TrialRoom>
			<SumsBar open={false} onOpen={() => undefined} />
			<BriefText fabric={fabric} line={0} />
			<button type="button" onClick={() => setFabric({ ...MARLIN, version: 4, text: NEW })}>
				elsewhere
			</button>
		</TrialRoom>
	);
}
const editor = () => EditorView.findFromDOM(screen.getByLabelText("The brief as YAML")) as EditorView;
const write = (text: string) =>
	act(() => editor().dispatch({ changes: { from: 0, to: editor().state.doc.length, insert: text } }));
const save = () => screen.getByRole<HTMLButtonElement>("button", { name: "Save" });
const saves = (asked: Asked[]) => asked.filter((one) => one.method === "PUT");

test("as saved there is nothing to save; a change is saved whole, at the version it was made from", async () => {
	const { asked } = opened();
	expect(screen.getByText("as saved")).toBeTruthy();
	expect(save().disabled).toBe(true);
	write(NEW);
	expect(screen.getByText("not saved yet")).toBeTruthy();
	fireEvent.keyDown(editor().contentDOM, { key: "s", ctrlKey: true });
	await waitFor(() => expect(saves(asked)).toHaveLength(1));
	expect(saves(asked)[0]?.body).toMatchObject({ text: NEW, version: MARLIN.version });
});

test("what is typed is weighed at once: its sums stand above it, and go with the text", async () => {
	opened();
	write(NEW);
	expect(await screen.findByText("7,777")).toBeTruthy();
	expect(screen.getByLabelText("Sums, with what is being typed")).toBeTruthy();
	write(MARLIN.text);
	await waitFor(() => expect(screen.getByLabelText("Sums")).toBeTruthy());
});

test("what is wrong is said with its line before anything is saved", async () => {
	const fault = {
		code: "brief.word",
		message: "There is no model called c65.",
		path: "spines.model",
		line: 3,
		column: 5,
	};
	const { asked } = opened({ "POST /fabrics/marlin/check": new Refusal(422, "no", [fault]) });
	write(NEW);
	expect(await screen.findByText("Line 3: There is no model called c65.")).toBeTruthy();
	expect(saves(asked)).toHaveLength(0);
});

test("typed text that was not saved is there again after a reload of the page, and still not saved", async () => {
	const mine = { version: MARLIN.version, text: NEW };
	sessionStorage.setItem("text of marlin", JSON.stringify(mine));
	const { asked } = opened();
	expect(editor().state.doc.toString()).toBe(NEW);
	expect(screen.getByText("not saved yet")).toBeTruthy();
	expect(saves(asked)).toHaveLength(0);
	write(MARLIN.text);
	expect(sessionStorage.getItem("text of marlin")).toBeNull();
});

test("a text made from an older draft is never saved over a newer one; the newer is taken by a click", async () => {
	sessionStorage.setItem("text of marlin", JSON.stringify({ version: 2, text: NEW }));
	const { asked } = opened();
	expect(screen.getByText("made from an older draft")).toBeTruthy();
	await userEvent.click(save());
	expect(await screen.findByText(/was not saved over the newer one/)).toBeTruthy();
	expect(saves(asked)).toHaveLength(0);
	await userEvent.click(screen.getByRole("button", { name: "Take the newer text" }));
	expect(editor().state.doc.toString()).toBe(MARLIN.text);
	expect(screen.getByText("as saved")).toBeTruthy();
});

test("a save elsewhere shows here at once where nobody is typing, and leaves alone what is being typed", async () => {
	const { unmount } = opened();
	await userEvent.click(screen.getByRole("button", { name: "elsewhere" }));
	expect(editor().state.doc.toString()).toBe(NEW);
	expect(screen.getByText("as saved")).toBeTruthy();
	unmount();
	opened();
	write("fabric: mine\n");
	await userEvent.click(screen.getByRole("button", { name: "elsewhere" }));
	expect(editor().state.doc.toString()).toBe("fabric: mine\n");
	expect(screen.getByText("made from an older draft")).toBeTruthy();
});

test("turning to something else keeps what was typed", async () => {
	const { asked, unmount } = opened();
	write(NEW);
	unmount();
	await waitFor(() => expect(saves(asked)[0]?.body).toMatchObject({ text: NEW }));
});

test("a reason leads to its line, and the way back to the prose is there", async () => {
	serve({});
	const onClose = vi.fn();
	show(<BriefText fabric={MARLIN} line={4} onClose={onClose} />);
	const { state } = editor();
	expect(state.doc.lineAt(state.selection.main.head).number).toBe(4);
	await userEvent.click(screen.getByRole("button", { name: "As prose" }));
	expect(onClose).toHaveBeenCalled();
});
