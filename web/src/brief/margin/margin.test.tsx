/** Claims about the margin of the brief: findings, a crossing, a switch, racks; what each says and does. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import type { Crossing } from "../../api/client";
import { FACE, MARLIN, PELICAN, RACKS, Refusal, SHELF, serve, show, TALL, WEAVE } from "../../testing";
import type { Choice } from "../weave/geometry";
import { BriefMargin } from "./margin";

const CROSSING = {
	upper: "spine-3",
	lower: "leaf-r07b",
	upper_asn: 4200065000,
	lower_asn: 4200065014,
	state: "",
	links: [
		{
			label: "M-0101",
			key: "leaf/r07/b~spine/3~1",
			upper_port: "p27",
			lower_port: "u5",
			speed: 100,
			kind: "AOC",
			v4: "10.61.0.210/31",
			v6: null,
			state: "",
		},
		{
			label: "M-0102",
			key: "leaf/r07/b~spine/3~2",
			upper_port: "p28",
			lower_port: "u6",
			speed: 100,
			kind: "AOC",
			v4: "10.61.0.212/31",
			v6: null,
			state: "",
		},
	],
	because_of: "10.61.0.210/31",
	because: [
		{ kind: "rule", title: "A point-to-point link needs two addresses", detail: "RFC 3021", refs: {} },
	],
	printed_on: [{ switch: "spine-3", file: "etc/frr/frr.conf", line: 44 }],
} as unknown as Crossing;

const STEPS = {
	title: "asn",
	steps: [
		{
			kind: "ledger",
			title: "4200065014 from pool office-private",
			detail: "ledger, lowest free",
			refs: { pool: "office-private", number: "4200065014" },
		},
		{ kind: "brief", title: "The brief draws these", detail: "brief, line 89", refs: { line: 89 } },
	],
};

function margin(chosen: Choice, more: Record<string, unknown> = {}, fabric = MARLIN, weave = WEAVE) {
	const asked = serve({
		[`GET /fabrics/${fabric.name}/because`]: STEPS,
		[`GET /fabrics/${fabric.name}/crossing`]: CROSSING,
		[`GET /fabrics/${fabric.name}/racks`]: RACKS,
		"GET /fabrics/marlin/switches/leaf-r07b/face": FACE,
		"GET /catalogue": SHELF,
		[`POST /fabrics/${fabric.name}/reshape`]: { ...fabric, version: 4 },
		[`POST /fabrics/${fabric.name}/edits`]: { ...fabric, version: 4 },
		...more,
	});
	const onChoose = vi.fn();
	show(
		<BriefMargin fabric={fabric} weave={weave} chosen={chosen} onChoose={onChoose} />,
		"/f/marlin/brief",
		fabric,
	);
	const sent = async (path: string) => {
		await waitFor(() => expect(asked.some((one) => one.path.endsWith(path))).toBe(true));
		return asked.find((one) => one.path.endsWith(path))?.body;
	};
	return { asked, onChoose, sent };
}

test("with nothing chosen it lists the findings, each with the line of the brief", () => {
	const findings = [
		{ code: "a.b", message: "Nobody could sign in.", path: "services.users", line: 12, column: 1 },
	];
	margin({}, {}, { ...MARLIN, findings });
	expect(screen.getByText("1 finding")).toBeTruthy();
	expect(screen.getByText("Nobody could sign in.")).toBeTruthy();
	expect(screen.getByRole("link", { name: "brief, line 12" }).getAttribute("href")).toContain(
		"text=1&line=12",
	);
});

test("a crossing says its links, ports, addresses, session and cables, and why", async () => {
	const { onChoose } = margin({ spine: "spine-3", leaf: "leaf-r07b" });
	const text = async (words: string) =>
		expect((await screen.findByLabelText("Because")).textContent).toContain(words);
	expect(await screen.findByText("A point-to-point link needs two addresses")).toBeTruthy();
	await text("2 × 100G");
	await text("spine-3 p27, p28");
	await text("4200065000 – 4200065014");
	await text("M-0101, M-0102 · AOC");
	expect(screen.getByRole("link", { name: "spine-3 frr.conf : 44" }).getAttribute("href")).toBe(
		"/f/marlin/configs/spine-3?file=etc/frr/frr.conf&line=44",
	);
	await userEvent.click(screen.getByRole("button", { name: "leaf-r07b" }));
	expect(onChoose).toHaveBeenCalledWith({ leaf: "leaf-r07b" });
});

test("links are marked out of service together, with the reason", async () => {
	const { sent } = margin({ spine: "spine-3", leaf: "leaf-r07b" });
	await userEvent.click(await screen.findByRole("button", { name: "Out of service" }));
	await userEvent.type(screen.getByLabelText("Why these links are out of service"), " bent pins {Enter}");
	expect(await sent("/reshape")).toMatchObject({
		version: MARLIN.version,
		action: "mark",
		keys: ["leaf/r07/b~spine/3~1", "leaf/r07/b~spine/3~2"],
		state: "out_of_service",
		why: "bent pins",
	});
});

test("what is out of service says so, and is brought back without a reason", async () => {
	const { sent } = margin(
		{ spine: "spine-3", leaf: "leaf-r07b" },
		{
			"GET /fabrics/marlin/crossing": { ...CROSSING, state: "out of service" },
		},
	);
	await userEvent.click(await screen.findByRole("button", { name: "Back in service" }));
	expect(await sent("/reshape")).toMatchObject({ action: "mark", state: "", why: "" });
});

test("a switch says what it is, where it stands, and how its ASN came about, with ways to brief and ledger", async () => {
	const { onChoose } = margin({ leaf: "leaf-r07b" });
	const leaf = WEAVE.leaves.find((one) => one.name === "leaf-r07b");
	const box = screen.getByLabelText("Because");
	expect(box.textContent).toContain(leaf?.model);
	expect(box.textContent).toContain(leaf?.loopback);
	expect(await screen.findByRole("link", { name: "ledger, lowest free" })).toBeTruthy();
	expect(screen.getByRole("link", { name: "ledger, lowest free" }).getAttribute("href")).toBe(
		"/f/marlin/ledger?pool=office-private&number=4200065014",
	);
	expect(screen.getByRole("link", { name: "brief, line 89" }).getAttribute("href")).toBe(
		"/f/marlin/brief?text=1&line=89",
	);
	await userEvent.click(screen.getByRole("button", { name: "Its rack" }));
	expect(onChoose).toHaveBeenCalledWith({ racks: "r07" });
});

test("a front shows each port, its use, and what is at the cable's other end", async () => {
	margin({ leaf: "leaf-r07b" });
	const front = await screen.findByRole("img", { name: /Front of leaf-r07b/ });
	const holes = front.querySelectorAll(":scope > g");
	expect(holes.length).toBe(FACE.groups.reduce((sum, group) => sum + group.holes.length, 0));
	const titles = [...front.querySelectorAll("title")].map((one) => one.textContent);
	expect(titles).toContain("h1: hosts");
	const up = FACE.groups
		.flatMap((group) => group.holes.flatMap((hole) => hole.ports))
		.find(({ peer }) => peer);
	expect(titles.find((one) => one?.startsWith(`${up?.name}:`))).toContain(up?.peer);
});

test("spines are counted: one more, one fewer, and the last of them stays", async () => {
	const { sent, onChoose } = margin({ spine: "spine-2" });
	await userEvent.click(screen.getByRole("button", { name: "One fewer" }));
	expect(await sent("/edits")).toMatchObject({ edits: [["spines.count", 3]], note: "3 spines" });
	await waitFor(() => expect(onChoose).toHaveBeenCalledWith({}));
	const alone = { ...MARLIN, brief: { ...MARLIN.brief, spines: { ...MARLIN.brief.spines, count: 1 } } };
	margin({ spine: "spine-1" }, {}, alone);
	const fewer = screen.getAllByRole<HTMLButtonElement>("button", { name: "One fewer" });
	expect(fewer.at(-1)?.disabled).toBe(true);
});

test("a spine of three tiers leads to the super-spines of its plane, and they back", async () => {
	const spine = TALL.spines[1];
	const { onChoose } = margin({ spine: spine?.name }, {}, PELICAN, TALL);
	expect(screen.getByText("Super-spines of its plane")).toBeTruthy();
	const above = TALL.supers.filter((one) => one.plane === spine?.plane);
	await userEvent.click(screen.getByRole("button", { name: above[0]?.name }));
	expect(onChoose).toHaveBeenCalledWith({ spine: above[0]?.name });
});

test("racks say what they hold and weigh, and are copied or taken out together", async () => {
	const { sent, onChoose } = margin({ racks: "r03..r05" });
	const box = screen.getByLabelText("Because");
	expect(screen.getByText("Racks r03 to r05")).toBeTruthy();
	const three = RACKS.filter((rack) => ["r03", "r04", "r05"].includes(rack.rack));
	const power = three.reduce((sum, rack) => sum + rack.power, 0).toLocaleString("en");
	await waitFor(() => expect(box.textContent).toContain(`${power} W`));
	expect(box.textContent).toContain("6, ");
	await userEvent.click(screen.getByRole("button", { name: "Take them out" }));
	expect(await sent("/reshape")).toMatchObject({ action: "remove", racks: ["r03", "r04", "r05"] });
	await waitFor(() => expect(onChoose).toHaveBeenCalledWith({}));
});

test("racks are given another kind: only what is chosen, numbers as numbers", async () => {
	const { sent } = margin({ racks: "r03..r05" });
	const change = screen.getByRole<HTMLButtonElement>("button", { name: "Change 3 racks" });
	expect(change.disabled).toBe(true);
	await userEvent.selectOptions(screen.getByLabelText("Leaves"), "a pair");
	await userEvent.type(screen.getByLabelText("Kind’s name"), "storage");
	await userEvent.type(screen.getByLabelText("Host speed, G"), "10");
	await userEvent.click(change);
	expect(await sent("/reshape")).toMatchObject({
		action: "change",
		racks: ["r03", "r04", "r05"],
		fields: { leaves: 2, kind: "storage", host_speed: 10 },
	});
});

test("racks that cannot be taken out stay, and the reason stands beside them", async () => {
	const { onChoose } = margin(
		{ racks: "r03" },
		{
			"POST /fabrics/marlin/reshape": new Refusal(422, "A segment names rack r03."),
		},
	);
	expect(screen.getByText("Rack r03")).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Take it out" }));
	expect((await screen.findByRole("alert")).textContent).toBe("A segment names rack r03.");
	expect(onChoose).not.toHaveBeenCalled();
});

test("the margin folds away with M, stays so, and is opened again", async () => {
	margin({});
	await userEvent.keyboard("m");
	expect(screen.queryByText("Nothing is wrong")).toBeNull();
	expect(localStorage.getItem("margin")).toBe("folded");
	await userEvent.click(
		within(screen.getByLabelText("Because")).getByRole("button", { name: /Open the margin/ }),
	);
	expect(screen.getByText("Nothing is wrong")).toBeTruthy();
});
