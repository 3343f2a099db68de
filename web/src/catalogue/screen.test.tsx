/** Claims about the catalogue: models with their figures, and a change to one that is seen in every fabric before it is kept. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { ModelPreview, ModelRow } from "../api/client";
import { Refusal, SHELF, serve, show } from "../testing";
import { CatalogueScreen } from "./screen";

const FIRST = SHELF[0] as ModelRow;
const SECOND = SHELF[1] as ModelRow;
const OWN: ModelRow = {
	...SECOND,
	own: true,
	model: { ...SECOND.model, id: "quay-q1", maker: "Quay", name: "Q1" },
};

function catalogue(answers: Parameters<typeof serve>[0] = {}, at = "/catalogue") {
	const asked = serve({ "GET /catalogue": [FIRST, OWN], ...answers });
	show(<CatalogueScreen />, at);
	return asked;
}
const found = (effects: ModelPreview["effects"], replaces = true): ModelPreview => ({
	model: OWN.model,
	replaces,
	effects,
});
const button = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name });
const editor = () => screen.findByLabelText<HTMLTextAreaElement>("The model as YAML");
const change = async (to: string) => fireEvent.change(await editor(), { target: { value: to } });

test("the first model is open, with its figures and its ports as they are in the catalogue", async () => {
	catalogue();
	const { model } = FIRST;
	const main = within(await screen.findByRole("main"));
	expect((await main.findByRole("heading", { level: 1 })).textContent).toBe(
		`${model.maker} ${model.name} ${model.id}`,
	);
	expect(main.getByText("Power").nextSibling?.textContent).toContain("W");
	const rows = main.getAllByRole("row").slice(1);
	expect(rows.map((one) => Number(/… (\d+)/.exec(one.textContent ?? "")?.[1]))).toEqual(
		model.groups.map((group) => group.count),
	);
	const front = main.getByRole("img");
	expect(front.querySelectorAll("rect")).toHaveLength(
		model.groups.reduce((sum, group) => sum + group.count, 0),
	);
});

test("a port that the catalogue reserves is drawn as such, and a model of one's own says it is", async () => {
	const group = FIRST.model.groups[0];
	const name = (group?.pattern ?? `${group?.prefix}{n}`).replace("{n}", String(group?.first));
	catalogue({ "GET /catalogue": [{ ...FIRST, model: { ...FIRST.model, reserved: [name] } }, OWN] });
	const titles = [...(await screen.findByRole("img")).querySelectorAll("title")].map(
		(one) => one.textContent,
	);
	expect(titles.filter((one) => one?.endsWith(", reserved"))).toEqual([`${name}, reserved`]);
	expect(screen.getByRole("button", { name: /Quay Q1 yours/ })).toBeTruthy();
});

test("a change is kept only after what it does was seen; a further word asks anew", async () => {
	const effect = { switches_changed: 60, cables_added: 1 };
	const asked = catalogue({
		"POST /catalogue/preview": found([
			{ fabric: "marlin", effect, refusal: null },
			{ fabric: "tern", effect: {}, refusal: null },
		]),
		"PUT /catalogue": found([]),
	});
	await change("id: quay-q1\npower: 300\n");
	expect(screen.queryByRole("button", { name: "Keep the changed model" })).toBeNull();
	await userEvent.click(button("See what it does"));
	expect(await screen.findByText(/2 fabrics use it:/)).toBeTruthy();
	expect(screen.getByText("marlin").parentElement?.textContent).toBe("marlin: 60 changed, 1 cable to lay");
	expect(screen.getByText("tern").parentElement?.textContent).toBe("tern: nothing moves");
	await change("id: quay-q1\npower: 310\n");
	expect(screen.queryByText(/2 fabrics use it:/)).toBeNull();
	await userEvent.click(button("See what it does"));
	await userEvent.click(await screen.findByRole("button", { name: "Keep the changed model" }));
	await waitFor(() => expect(window.location.search).toBe("?model=quay-q1"));
	expect(asked.find((one) => one.method === "PUT")?.body).toEqual({ text: "id: quay-q1\npower: 310\n" });
});

test("what a fabric cannot bear is said, and the change is not offered to keep", async () => {
	const refusal = "leaf-r07b needs 48 ports, and Q1 has 24.";
	const asked = catalogue({
		"POST /catalogue/preview": found([{ fabric: "marlin", effect: null, refusal }]),
	});
	await change("id: quay-q1\n");
	await userEvent.click(button("See what it does"));
	expect((await screen.findByText(/leaf-r07b needs 48 ports/)).className).toContain("text-madder");
	expect(screen.queryByRole("button", { name: "Keep the changed model" })).toBeNull();
	expect(asked.some((one) => one.method === "PUT")).toBe(false);
});

test("another id adds a model, and what cannot be read names its line", async () => {
	const fault = {
		code: "model.field",
		message: "Ports have a count.",
		path: "groups.0.count",
		line: 4,
		column: 3,
	};
	catalogue({ "POST /catalogue/preview": new Refusal(422, "The model cannot be read.", [fault]) });
	await change("id: quay-q2\n");
	await userEvent.click(button("See what it does"));
	expect((await screen.findByRole("alert")).textContent).toContain("Ports have a count.");
	serve({ "POST /catalogue/preview": found([], false), "GET /catalogue": [FIRST] });
	await userEvent.click(button("See what it does"));
	expect(await screen.findByRole("button", { name: "Add the model" })).toBeTruthy();
	expect(screen.getByText(/No fabric uses it yet/)).toBeTruthy();
});

test("only a model of one's own is taken out; while a fabric uses it, it stays, and says so", async () => {
	const asked = catalogue({ "DELETE /catalogue/quay-q1": new Refusal(422, "marlin uses quay-q1.") });
	await editor();
	expect(screen.queryByRole("button", { name: "Take it out" })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: /Quay Q1/ }));
	await userEvent.click(await screen.findByRole("button", { name: "Take it out" }));
	expect((await screen.findByRole("alert")).textContent).toBe("marlin uses quay-q1.");
	expect(asked.filter((one) => one.method === "DELETE")).toHaveLength(1);
});
