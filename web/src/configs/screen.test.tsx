/** Claims about configurations: every switch is one key away, every line says why it stands there, and all files agree or say not. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Outlet, Route, Routes } from "react-router";
import { expect, test } from "vitest";
import { type Asked, MARLIN, Refusal, serve, show, switchRow } from "../testing";
import { ConfigsScreen } from "./screen";

const SWITCHES = [
	switchRow("spine-1", "spine"),
	switchRow("leaf-r01a", "leaf"),
	switchRow("leaf-r01b", "leaf", { state: "planned later" }),
];
const paths = ["etc/frr/frr.conf", "etc/network/interfaces", "etc/hosts"];
const FILES = paths.map((path) => ({ path, name: path.split("/").at(-1), section: "", lines: 3 }));
const TEXT = ["hostname leaf-r01a", "!", "router bgp 4200065007"].map((text) => ({ text, spans: [] }));
const step = (title: string, detail: string, more = {}) => ({
	kind: "template",
	title,
	detail,
	refs: {},
	...more,
});
const REASON = {
	number: 3,
	text: "router bgp 4200065007",
	steps: [step("bgp.j2, line 4", "written for each switch that speaks BGP")],
	values: [
		{
			path: "bgp/asn",
			text: "4200065007",
			steps: [
				step("The leaf has an ASN of its own", "line 8 of the brief", { kind: "brief", refs: { line: 8 } }),
			],
		},
	],
	same_on: Array.from({ length: 14 }, (_, at) => `leaf-r${String(at + 2).padStart(2, "0")}a`),
};

function configs(answers: Parameters<typeof serve>[0] = {}, at = "/f/marlin/configs", fabric = MARLIN) {
	const asked = serve({
		"GET /fabrics/marlin/switches": SWITCHES,
		"GET /fabrics/marlin/readback": { switches: 3, refused: 0, findings: [] },
		...Object.fromEntries(
			SWITCHES.flatMap(({ name }) => [
				[`GET /fabrics/marlin/switches/${name}/files`, FILES],
				[
					`GET /fabrics/marlin/switches/${name}/file`,
					({ query }: Asked) => ({ path: query.get("path"), lines: TEXT }),
				],
				[`GET /fabrics/marlin/switches/${name}/because`, REASON],
			]),
		),
		...answers,
	});
	const routes = (
		<Routes>
			<Route path="/f/:fabric" element={<Outlet context={fabric} />}>
				<Route path="configs/:target?" element={<ConfigsScreen />} />
				<Route path="*" element={null} />
			</Route>
		</Routes>
	);
	show(routes, at, fabric, false);
	return asked;
}
const where = () => screen.getByLabelText("where").textContent;
const text = (path = paths[0]) => screen.findByRole("region", { name: path });

test("the first leaf opens by itself, with its first file, and says where it stands", async () => {
	configs();
	expect(within(await text()).getAllByRole("button")).toHaveLength(3);
	expect(screen.getByText("rack r01, U42 · Cantera L48")).toBeTruthy();
	expect(where()).toBe("/f/marlin/configs");
});

test("a switch that is not there leads to one that is", async () => {
	configs({}, "/f/marlin/configs/leaf-r99a");
	await waitFor(() => expect(where()).toBe("/f/marlin/configs/leaf-r01a"));
});

test("J and K step through the lines and stop at the ends; each line says why", async () => {
	const asked = configs({}, "/f/marlin/configs/leaf-r01a");
	await text();
	await userEvent.keyboard("jjjj");
	expect(await screen.findByText("Line 3 of frr.conf")).toBeTruthy();
	expect(window.location.search).toBe(`?${new URLSearchParams({ file: paths[0] as string, line: "3" })}`);
	expect(screen.getByText("bgp.j2, line 4")).toBeTruthy();
	expect(screen.getByRole("link", { name: "line 8 of the brief" }).getAttribute("href")).toBe(
		"/f/marlin/brief?text=1&line=8",
	);
	await userEvent.keyboard("kkkk");
	expect(window.location.search).toContain("line=1");
	const reason = asked.findLast((one) => one.path.endsWith("/because"));
	expect(reason?.query.get("line")).toBe("1");
});

test("the same line elsewhere: twelve switches by name, which lead there, and how many more", async () => {
	configs({}, "/f/marlin/configs/leaf-r01a?line=3");
	expect(await screen.findByText("The same line stands on 14 other switches")).toBeTruthy();
	expect(screen.getByText("and 2 more")).toBeTruthy();
	expect(screen.queryByRole("link", { name: "leaf-r14a" })).toBeNull();
	await userEvent.click(screen.getByRole("link", { name: "leaf-r13a" }));
	expect(where()).toContain("/f/marlin/configs/");
});

test("brackets turn to the next switch and keep the file that is open", async () => {
	configs({}, "/f/marlin/configs/leaf-r01a");
	await userEvent.click(await screen.findByRole("button", { name: "interfaces" }));
	await text(paths[1]);
	await userEvent.keyboard("]]");
	await waitFor(() => expect(where()).toBe(`/f/marlin/configs/leaf-r01b?file=${paths[1]}`));
	expect((await screen.findByText("· planned later")).getAttribute("title")).toBe(
		"These files are in no bundle yet",
	);
	await userEvent.keyboard("[[[[[[");
	await waitFor(() => expect(where()).toContain("/configs/spine-1?"));
	expect(await text(paths[1])).toBeTruthy();
});

test("a switch whose files are refused says so in their place, and no old text stays", async () => {
	const why = "h3 cannot carry 25 Gbit/s.";
	configs(
		{ "GET /fabrics/marlin/switches/leaf-r01a/files": new Refusal(422, why) },
		"/f/marlin/configs/leaf-r01a",
	);
	expect((await screen.findByText(/There are no files for leaf-r01a/)).parentElement?.textContent).toContain(
		why,
	);
	expect(screen.queryByRole("region", { name: paths[0] })).toBeNull();
});

test("all files are read back at once in a small fabric, and agreement is said", async () => {
	configs();
	expect(await screen.findByText(/The files of 3 switches agree with each other/)).toBeTruthy();
});

test("in a large fabric somebody asks for it; what does not agree, and who was not read, is said", async () => {
	const finding = {
		code: "readback.session",
		message: "spine-1 says AS 1, leaf-r01a expects AS 2.",
		path: "",
	};
	const asked = configs(
		{ "GET /fabrics/marlin/readback": { switches: 900, refused: 1, findings: [finding] } },
		"/f/marlin/configs/leaf-r01a",
		{ ...MARLIN, sums: { ...MARLIN.sums, switches: 901 } },
	);
	await userEvent.click(await screen.findByRole("button", { name: "Read all files back" }));
	expect(await screen.findByText("spine-1 says AS 1, leaf-r01a expects AS 2.")).toBeTruthy();
	expect(screen.getByText("1 switch has no files, and was not read.")).toBeTruthy();
	expect(asked.filter((one) => one.path.endsWith("/readback"))).toHaveLength(1);
	expect(screen.queryByText(/agree with each other/)).toBeNull();
});
