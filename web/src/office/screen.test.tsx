/** Claims about the office: files with what a change does before it is saved, a template tried while it is written, and its past. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, expect, test } from "vitest";
import { ROW, serve, show, switchRow } from "../testing";
import { changed } from "./copy";
import type { Office, Tried } from "./queries";
import { OfficeScreen } from "./screen";

const AT = "targets/quay/startup.j2";
const OFFICE: Office = {
	number: 3,
	files: { "targets/quay/target.yaml": "target: quay\n", [AT]: "switch {{ sw.name }}\n" },
	targets: [
		{ name: "linux-frr", title: "", own: false, writes: [], users: { marlin: 30 } },
		{ name: "quay", title: "", own: true, writes: ["startup.cfg"], users: { marlin: 2, tern: 1 } },
	],
};
const tried = (more: Partial<Tried> = {}): Tried => ({
	switch: "leaf-r07b",
	files: { "flash/startup.cfg": "switch leaf-r07b\n", "flash/keys": "none\n" },
	before: { "flash/startup.cfg": "switch leaf-r07b\n" },
	faults: [],
	missing: [],
	took: 12.4,
	...more,
});

beforeEach(() => sessionStorage.clear());

function office(answers: Parameters<typeof serve>[0] = {}) {
	const asked = serve({
		"GET /office": OFFICE,
		"GET /office/words": { paths: [], filters: {} },
		"GET /office/secrets": [{ name: "quay-enable", author: "Ines", saved_at: "2026-05-04T09:30:00Z" }],
		"GET /fabrics": [ROW],
		[`GET /fabrics/${ROW.name}/switches`]: [switchRow("leaf-r07b", "leaf")],
		[`POST /fabrics/${ROW.name}/templates/try`]: tried(),
		...answers,
	});
	show(<OfficeScreen />, "/office");
	return asked;
}
const keep = (copy: object) => sessionStorage.setItem("unsaved office", JSON.stringify(copy));
const CHANGED = { ...OFFICE.files, [AT]: "switch {{ sw.nmae }}\n" };

test("targets stand with who uses them, and the file that is open is tried on a switch", async () => {
	const asked = office();
	const tree = within(await screen.findByRole("navigation", { name: "Targets" }));
	await tree.findByRole("button", { name: "1 secret" });
	expect(tree.getByText("3 switches in marlin and tern")).toBeTruthy();
	expect(tree.getAllByRole("button").map((one) => one.textContent)).toEqual([
		"Say something",
		"1 secret",
		"target.yaml",
		"startup.j2",
		"from a configuration…",
	]);
	expect((await screen.findByLabelText("What the switch gets")).textContent).toContain("switch leaf-r07b");
	await userEvent.click(screen.getByRole("tab", { name: "keys" }));
	expect(screen.getByLabelText("What the switch gets").textContent).toContain("none");
	const trial = asked.find((one) => one.method === "POST")?.body;
	expect(trial).toMatchObject({
		target: "quay",
		switch: "leaf-r07b",
		files: { "startup.j2": OFFICE.files[AT] },
	});
});

test("what a template does wrong is said with its line, and what is in no file is counted", async () => {
	const fault = {
		code: "template.undefined",
		message: "startup.j2, line 1 names what is not there",
		path: AT,
		line: 1,
		column: 0,
	};
	office({
		[`POST /fabrics/${ROW.name}/templates/try`]: tried({
			files: {},
			faults: [fault],
			missing: ["its name, leaf-r07b"],
		}),
	});
	expect((await screen.findByRole("alert")).textContent).toBe(fault.message);
	await waitFor(() => expect(document.querySelector(".cm-lintRange-error")?.textContent).toContain("switch"));
	expect(screen.getByText("1 thing of the model in no file")).toBeTruthy();
});

test("a change is saved only after what it does to every fabric was seen", async () => {
	keep({ number: 3, files: CHANGED });
	let now = OFFICE;
	const asked = office({
		"GET /office": () => now,
		"POST /office/preview": [
			{ fabric: "marlin", switches: 2, refusal: "" },
			{ fabric: "tern", switches: 0, refusal: "" },
		],
		"PUT /office": () => {
			now = { ...OFFICE, number: 4, files: CHANGED };
			return now;
		},
	});
	expect(await screen.findByText(/1 file not saved/)).toBeTruthy();
	expect(screen.queryByRole("button", { name: "Save edition 4" })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "See what it does" }));
	expect(await screen.findByText(/2 switches get other files/)).toBeTruthy();
	await userEvent.type(screen.getByLabelText("Why"), "another name");
	await userEvent.click(screen.getByRole("button", { name: "Save edition 4" }));
	await waitFor(() => expect(screen.queryByText(/not saved/)).toBeNull());
	const saved = asked.find((one) => one.method === "PUT")?.body;
	expect(saved).toEqual({ number: 3, files: CHANGED, note: "another name" });
});

test("what would leave a fabric without files cannot be saved, and can be dropped", async () => {
	keep({ number: 3, files: CHANGED });
	office({
		"POST /office/preview": [{ fabric: "marlin", switches: 0, refusal: "line 1 names what is not there" }],
	});
	await userEvent.click(await screen.findByRole("button", { name: "See what it does" }));
	expect(await screen.findByText(/line 1 names what is not there/)).toBeTruthy();
	expect(screen.queryByRole("button", { name: /Save edition/ })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "Drop the changes" }));
	expect(screen.queryByText(/not saved/)).toBeNull();
});

test("a copy that was made from an older edition is not saved over the newer one", async () => {
	keep({ number: 2, files: CHANGED });
	office({ "POST /office/preview": [] });
	expect(await screen.findByText(/made from an older edition/)).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "See what it does" }));
	expect((await screen.findByRole<HTMLButtonElement>("button", { name: "Save edition 4" })).disabled).toBe(
		true,
	);
});

test("a new target begins with a manifest and a template; a name that cannot be is refused in place", async () => {
	office();
	const name = await screen.findByLabelText("A new target's name");
	await userEvent.type(name, "Über{Enter}");
	expect(screen.getByText(/Small letters, digits and dashes/)).toBeTruthy();
	await userEvent.clear(name);
	await userEvent.type(name, "dock{Enter}");
	expect(await screen.findByText(/2 files not saved/)).toBeTruthy();
	expect((await screen.findByLabelText("targets/dock/target.yaml")).textContent).toContain("target: dock");
});

test("an earlier edition is taken up again as a change to be seen and saved", async () => {
	office({
		"GET /office/editions": [
			{ number: 3, author: "Ines", note: "now", saved_at: "2026-05-04T09:30:00Z", files: 2 },
			{ number: 2, author: "Ines", note: "before", saved_at: "2026-05-03T09:30:00Z", files: 2 },
		],
		"GET /office/editions/2": { files: CHANGED },
	});
	await userEvent.click(await screen.findByRole("button", { name: "edition 3" }));
	await userEvent.click(await screen.findByRole("button", { name: "Take it up again" }));
	expect(await screen.findByText(/1 file not saved/)).toBeTruthy();
});

test("a configuration becomes a template that is taken into the target, with what is to be decided", async () => {
	const asked = office({
		[`POST /fabrics/${ROW.name}/templates/learn`]: {
			template: "hostname {{ sw.name }}\n",
			values: 1,
			loops: 0,
			choices: [{ line: 1, value: "leaf-r07b", taken: "sw.name", others: ["sw.label"] }],
			same: true,
			differs: [],
			second: "",
		},
	});
	await userEvent.click(await screen.findByRole("button", { name: "from a configuration…" }));
	await userEvent.type(screen.getByLabelText("The configuration"), "hostname leaf-r07b");
	await userEvent.click(screen.getByRole("button", { name: "Find values and loops" }));
	expect(await screen.findByText(/it gives back the same bytes/)).toBeTruthy();
	expect(screen.getByText("1 value could be something else as well")).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Take it as a template" }));
	expect((await screen.findByLabelText("targets/quay/learned.j2")).textContent).toContain("hostname");
	expect(asked.find((one) => one.path.endsWith("/learn"))?.body).toEqual({
		switch: "leaf-r07b",
		text: "hostname leaf-r07b",
		second: "",
	});
});

test("a secret is set by its name, and what it is is sent once and shown nowhere", async () => {
	const asked = office({ "PUT /office/secrets/tide": new Response(null, { status: 204 }) });
	await userEvent.click(await screen.findByRole("button", { name: "1 secret" }));
	expect(screen.getByText(/set by Ines/)).toBeTruthy();
	await userEvent.type(screen.getByLabelText("The secret's name"), "tide");
	await userEvent.type(screen.getByLabelText("What it is"), "moon");
	await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
	await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("What it is").value).toBe(""));
	expect(asked.find((one) => one.method === "PUT")?.body).toEqual({ value: "moon" });
	expect(document.body.textContent).not.toContain("moon");
});

test("a trial goes by data that were changed by hand, and over all switches in numbers when asked", async () => {
	const asked = office({
		[`GET /fabrics/${ROW.name}/switches/leaf-r07b/data`]: { name: "leaf-r07b", fabric_ports: [1, 2] },
		[`POST /fabrics/${ROW.name}/templates/tally`]: {
			switches: 30,
			written: 28,
			same: 0,
			lines: 4200,
			refused: { "startup.j2, line 1 names what is not there": 2 },
			missing: { loopback_v4: 28 },
		},
	});
	await userEvent.click(await screen.findByRole("button", { name: "its data" }));
	const box = await screen.findByLabelText<HTMLTextAreaElement>("The data as JSON");
	expect(JSON.parse(box.value)).toEqual({ name: "leaf-r07b", fabric_ports: [1, 2] });
	await userEvent.type(box, "}");
	await userEvent.click(screen.getByRole("button", { name: "Try it with these" }));
	expect((await screen.findByRole("alert")).textContent).toContain("This is not JSON");
	await userEvent.clear(box);
	await userEvent.type(box, '{{"name": "leaf-r07b"}');
	await userEvent.click(screen.getByRole("button", { name: "Try it with these" }));
	expect(await screen.findByRole("button", { name: "data changed" })).toBeTruthy();
	await waitFor(() =>
		expect(asked.filter((one) => one.path.endsWith("/try")).at(-1)?.body).toMatchObject({
			data: { name: "leaf-r07b" },
		}),
	);
	await userEvent.click(screen.getByRole("button", { name: `Try all switches of ${ROW.name}` }));
	expect((await screen.findByText(/of 30 switches are written/)).textContent).toContain("28");
	expect(screen.getByText(/2: startup.j2, line 1/)).toBeTruthy();
	expect(screen.getByText("loopback_v4").parentElement?.textContent).toBe("loopback_v4 is in no file of 28");
});

test("files differ by what was added, taken out, or changed", () => {
	expect(changed({ a: "1", b: "2", c: "3" }, { a: "1", b: "9", d: "4" })).toEqual(["b", "c", "d"]);
});
