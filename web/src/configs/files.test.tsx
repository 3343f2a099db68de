/** Claims about files on screen: the switches they are of, their tabs, and their text with every value marked. */
import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import { switchRow } from "../testing";
import { FileTabs } from "./files";
import { SwitchList } from "./switches";
import { FileText } from "./text";

const SWITCHES = [
	switchRow("spine-1", "spine", { asn: 4200065000 }),
	switchRow("leaf-r01a", "leaf", { fresh: true }),
	switchRow("leaf-r02a", "leaf", { state: "out of service", rack: "r02" }),
	switchRow("leaf-r03a", "leaf", { state: "planned later", fresh: true }),
];

test("switches stand by role, with what is new, out of service or for later", async () => {
	const onOpen = vi.fn();
	render(<SwitchList others={new Map()} switches={SWITCHES} current="leaf-r01a" onOpen={onOpen} />);
	expect(screen.getAllByRole("heading").map((heading) => heading.textContent)).toEqual(["Spines", "Leaves"]);
	expect(screen.getByRole("button", { name: /leaf-r01a/ }).getAttribute("aria-current")).toBe("page");
	expect(screen.getByRole("button", { name: /leaf-r01a/ }).textContent).toBe("leaf-r01anew");
	expect(screen.getByRole("button", { name: /leaf-r02a/ }).textContent).toBe("leaf-r02aout");
	expect(screen.getByRole("button", { name: /leaf-r03a/ }).textContent).toBe("leaf-r03alater");
	await userEvent.click(screen.getByRole("button", { name: /leaf-r02a/ }));
	expect(onOpen).toHaveBeenCalledWith("leaf-r02a");
});

test("a slash leads to the finder, which knows names, racks, ASNs and addresses", async () => {
	render(<SwitchList others={new Map()} switches={SWITCHES} current="" onOpen={() => undefined} />);
	await userEvent.keyboard("/4200065000");
	expect(screen.getAllByRole("listitem")).toHaveLength(1);
	await userEvent.clear(screen.getByLabelText("Find a switch"));
	await userEvent.type(screen.getByLabelText("Find a switch"), "no such thing");
	expect(screen.getByText("No switch matches “no such thing”.")).toBeTruthy();
});

const FILES = ["etc/network/interfaces", "etc/frr/frr.conf", "etc/hosts", "etc/ssh/sshd_config"].map(
	(path) => ({
		path,
		name: path.split("/").at(-1) ?? "",
		section: "",
		lines: 12,
	}),
);

test("the two files that matter most are tabs, and the others a list", async () => {
	const onOpen = vi.fn();
	render(<FileTabs files={FILES} current="etc/frr/frr.conf" onOpen={onOpen} />);
	expect(screen.getByRole("button", { name: "frr.conf" }).getAttribute("aria-pressed")).toBe("true");
	await userEvent.click(screen.getByRole("button", { name: "others 2" }));
	await userEvent.click(screen.getByText("etc/ssh/sshd_config"));
	expect(onOpen).toHaveBeenCalledWith("etc/ssh/sshd_config");
});

const FILE = {
	path: "etc/frr/frr.conf",
	lines: [
		{ text: "! a comment", spans: [] },
		{
			text: "router bgp 4200065007 vrf tides",
			spans: [
				{ start: 26, end: 31, path: "vrfs/tides/name", source: "brief" },
				{ start: 11, end: 21, path: "bgp/asn", source: "ledger" },
			],
		},
	],
};

test("each value of a line is marked by where it comes from, and a line is chosen by its number", async () => {
	const onChoose = vi.fn();
	render(<FileText file={FILE} line={1} onChoose={onChoose} />);
	const text = screen.getByRole("region", { name: "etc/frr/frr.conf" });
	const [, second] = within(text).getAllByRole("button");
	expect(second?.textContent).toBe("2router bgp 4200065007 vrf tides");
	expect(second?.querySelector(".from-ledger")?.textContent).toBe("4200065007");
	expect(second?.querySelector(".from-brief")?.textContent).toBe("tides");
	await userEvent.click(second as HTMLElement);
	expect(onChoose).toHaveBeenCalledWith(2);
});
