/** Claims about the ways to begin a fabric: each shows what it comes to before anything is made, and makes exactly that. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { Proposals } from "../api/client";
import { type Asked, MARLIN, Refusal, ROW, SHELF, serve, show } from "../testing";
import { FabricList } from "./screen";

const STARTED = {
	text: "fabric: found\n",
	line: "found: 4 spines",
	notes: ["4 spines, 30 leaves in pairs."],
	sums: ROW.sums,
};

async function begin(way: string, answers: Parameters<typeof serve>[0]) {
	const asked = serve({ "GET /fabrics": [ROW], "POST /fabrics": MARLIN, ...answers });
	const shown = show(<FabricList />, "/");
	await userEvent.click(await screen.findByRole("button", { name: "New fabric" }));
	await userEvent.click(screen.getByRole("tab", { name: way }));
	return { asked, ...shown };
}
const button = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name });
const made = (asked: Asked[], path = "/fabrics") =>
	asked.find((one) => one.method === "POST" && one.path === path)?.body;

test("said in a line, the fabric is what the server made of the line, under the name that is typed", async () => {
	const { asked } = await begin("In a line", {
		"POST /quickline/complete": ({ body }: Asked) => {
			const { line } = body as { line: string };
			const whole = line === "4 spines";
			return {
				words: [],
				wrong: "",
				column: 0,
				sums: whole ? ROW.sums : null,
				text: whole ? "fabric: x\n" : "",
			};
		},
	});
	await userEvent.type(screen.getByLabelText("The fabric in a line"), "4 spine");
	await userEvent.type(screen.getByLabelText("Name"), " heron ");
	expect(button("Make the fabric").disabled).toBe(true);
	await userEvent.type(screen.getByLabelText("The fabric in a line"), "s");
	await waitFor(() => expect(button("Make the fabric").disabled).toBe(false));
	expect(screen.getByText("switches").textContent).toBe(`${ROW.sums?.switches} switches`);
	await userEvent.click(button("Make the fabric"));
	await waitFor(() => expect(made(asked)).toEqual({ text: "fabric: x\n", name: "heron", title: "" }));
});

test("a line that begins with its name needs no other, and Enter makes it", async () => {
	const { asked } = await begin("In a line", {
		"POST /quickline/complete": { words: [], wrong: "", column: 0, sums: null, text: "fabric: heron\n" },
	});
	await userEvent.type(screen.getByLabelText("The fabric in a line"), "heron: 4 spines");
	await waitFor(() => expect(button("Make the fabric").disabled).toBe(false));
	await userEvent.type(screen.getByLabelText("The fabric in a line"), "{Enter}");
	await waitFor(() => expect(made(asked)).toEqual({ text: "fabric: heron\n", title: "" }));
	await waitFor(() => expect(screen.getByLabelText("where").textContent).toBe("/f/marlin/brief"));
});

test("a fat tree is worked out for k ports, and one that cannot be says why", async () => {
	const { asked } = await begin("Fat tree", {
		"POST /fat-tree": ({ body }: Asked) =>
			(body as { k: number }).k === 5 ? new Refusal(422, "k is even: half the ports go up.") : STARTED,
	});
	const field = screen.getByLabelText(/k, ports of each switch/);
	await userEvent.clear(field);
	await userEvent.type(field, "5");
	await userEvent.click(button("Work it out"));
	expect((await screen.findByRole("alert")).textContent).toBe("k is even: half the ports go up.");
	await userEvent.clear(field);
	await userEvent.type(field, "8");
	await userEvent.click(button("Work it out"));
	await userEvent.type(await screen.findByLabelText("Name"), "heron");
	expect(screen.queryByRole("alert")).toBeNull();
	await userEvent.click(button("Make the fabric"));
	await waitFor(() => expect(made(asked)).toEqual({ text: STARTED.text, name: "heron", title: "" }));
	expect(asked.at(-3)?.body).toMatchObject({ k: 8 });
});

test("links that exist are read from a file; what was guessed wrong is changed before it is made", async () => {
	const { asked } = await begin("From links", {
		"POST /imports": ({ body }: Asked) =>
			body === "nothing" ? new Refusal(422, "Line 1: a link needs four columns.") : STARTED,
	});
	const field = screen.getByLabelText("Sheet of links");
	await userEvent.upload(field, new File(["nothing"], "bad.csv", { type: "text/csv" }));
	expect(await screen.findByText("Line 1: a link needs four columns.")).toBeTruthy();
	await userEvent.upload(field, new File(["a,1,b,1"], "links.csv", { type: "text/csv" }));
	expect(await screen.findByText("4 spines, 30 leaves in pairs.")).toBeTruthy();
	fireEvent.change(screen.getByLabelText(/The brief it makes/), { target: { value: "fabric: mine\n" } });
	await userEvent.type(screen.getByLabelText("Name"), "heron");
	await userEvent.click(button("Make the fabric"));
	await waitFor(() => expect(made(asked)).toMatchObject({ text: "fabric: mine\n", name: "heron" }));
});

test("a copy is of the fabric that is chosen, and its refusal is gone with the way that it came from", async () => {
	const tern = { ...ROW, name: "tern", title: "" };
	const { asked } = await begin("A copy", {
		"GET /fabrics": [ROW, tern],
		"POST /fabrics/tern/copy": ({ body }: Asked) =>
			(body as { name: string }).name === "marlin" ? new Refusal(409, "marlin is there already.") : MARLIN,
	});
	await userEvent.selectOptions(screen.getByLabelText("Copy of"), "tern");
	await userEvent.type(screen.getByLabelText("Name"), "marlin");
	await userEvent.click(button("Make the fabric"));
	expect(await screen.findByText("marlin is there already.")).toBeTruthy();
	await userEvent.click(screen.getByRole("tab", { name: "Text" }));
	expect(screen.queryByText("marlin is there already.")).toBeNull();
	await userEvent.click(screen.getByRole("tab", { name: "A copy" }));
	await userEvent.selectOptions(screen.getByLabelText("Copy of"), "tern");
	await userEvent.type(screen.getByLabelText("Name"), "heron");
	await userEvent.click(button("Make the fabric"));
	await waitFor(() => expect(asked.filter((one) => one.path.endsWith("/copy"))).toHaveLength(2));
	expect(asked.find((one) => one.body && (one.body as { name?: string }).name === "heron")).toBeTruthy();
});

test("a brief's own text is made as it is, and what is wrong in it stays on screen with its line", async () => {
	const fault = {
		code: "brief.word",
		message: "Spines are at least 1.",
		path: "spines.count",
		line: 2,
		column: 9,
	};
	const { asked } = await begin("Text", {
		"POST /fabrics": new Refusal(422, "The brief is not possible.", [fault]),
	});
	fireEvent.change(screen.getByLabelText("The brief, as YAML"), {
		target: { value: "fabric: x\nspines: 0\n" },
	});
	await userEvent.click(button("Make the fabric"));
	expect((await screen.findByRole("alert")).textContent).toContain("Spines are at least 1.");
	expect(made(asked)).toEqual({ text: "fabric: x\nspines: 0\n", title: "" });
	expect(screen.getByLabelText<HTMLTextAreaElement>("The brief, as YAML").value).toContain("spines: 0");
});

const design = {
	leaf: "L48", spine: "C64", super_spine: "", racks: 15, leaves_per_rack: 2, spines: 4, lanes: 1, pods: 0, supers: 0,
	switches: 34, cables: 120, power: 22500, oversubscription: 3, room: 9,
}; // biome-ignore format: a row of a table
const FOUND = {
	weighed: 1520,
	met: 12,
	proposals: [
		{ design, sums: ROW.sums, text: "fabric: first\n", line: "" },
		{
			design: { ...design, spine: "S64", lanes: 2, room: 0 },
			sums: ROW.sums,
			text: "fabric: second\n",
			line: "",
		},
	],
	failures: [{ models: "L24 under C64", reason: "48 hosts do not fit 24 ports." }],
} as unknown as Proposals;

test("a need is weighed with the models that are allowed, and the design that is chosen is made", async () => {
	const { asked } = await begin("From a need", {
		"GET /catalogue": SHELF,
		"POST /proposals": FOUND,
	});
	await userEvent.clear(screen.getByLabelText("Hosts"));
	await userEvent.type(screen.getByLabelText("Hosts"), "720");
	await userEvent.selectOptions(screen.getByLabelText("Each host on"), "one leaf");
	await userEvent.selectOptions(screen.getByLabelText("Best is"), "least power");
	await userEvent.click(screen.getByText("Models allowed: all"));
	const first = SHELF[0]?.model;
	await userEvent.click(screen.getByLabelText(`${first?.maker} ${first?.name}`));
	expect(screen.getByText(`Models allowed: ${SHELF.length - 1} of ${SHELF.length}`)).toBeTruthy();
	await userEvent.click(button("Weigh every design"));
	const table = await screen.findByRole("table");
	const need = (made(asked, "/proposals") as { need: { models: string[] } }).need;
	expect(need).toMatchObject({ hosts: 720, host_speed: 25, growth: 0.25, homes: 1, rule: "least power" });
	expect(need.models).toHaveLength(SHELF.length - 1);
	expect(need.models).not.toContain(first?.id);
	const second = within(table).getAllByRole("row")[2] as HTMLElement;
	expect(second.textContent).toContain("2 uplinks to each");
	await userEvent.click(within(second).getByRole("radio"));
	expect(button("Keep this one").disabled).toBe(true);
	await userEvent.type(screen.getByLabelText("Name"), "heron");
	await userEvent.click(button("Keep this one"));
	await waitFor(() => expect(made(asked)).toEqual({ text: "fabric: second\n", name: "heron", title: "" }));
});

test("where no design meets the need, the reasons are open at once and nothing is offered to keep", async () => {
	await begin("From a need", {
		"GET /catalogue": [],
		"POST /proposals": { ...FOUND, met: 0, proposals: [] },
	});
	await userEvent.click(button("Weigh every design"));
	const why = await screen.findByText("Why 1 other set of models cannot");
	expect((why.parentElement as HTMLDetailsElement).open).toBe(true);
	expect(why.parentElement?.textContent).toContain("L24 under C64: 48 hosts do not fit 24 ports.");
	expect(screen.queryByRole("button", { name: "Keep this one" })).toBeNull();
});
