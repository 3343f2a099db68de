/** Claims about the sentences of VRFs and hosts: what is said is what the brief says, and what is typed is what it will say. */
import { render, screen } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { expect, test } from "vitest";
import { MARLIN, show } from "../../testing";
import { Hosts } from "./hosts";
import { asImports, asRoutes, Vrfs } from "./vrfs";

const BRIEF = {
	...MARLIN.brief,
	vrfs: {
		archive: {
			imports: { intake: ["dish-feeds", "10.80.0.0/24"] },
			routes: { "10.97.0.0/16": ["10.72.1.8", "10.72.1.9"] },
			aggregates: ["10.72.0.0/16"],
			note: "",
		},
		intake: { imports: {}, routes: {}, aggregates: [], note: "" },
	},
};

test("a VRF says what it takes, reaches and is told outside as, and one that does not says nothing", () => {
	const said = show(<Vrfs brief={BRIEF} />).container.textContent ?? "";
	expect(said).toContain(
		"archive takes dish-feeds, 10.80.0.0/24 from intake; reaches 10.97.0.0/16 by 10.72.1.8 and 10.72.1.9; is told outside as 10.72.0.0/16",
	);
	expect(said).not.toContain("intake takes");
});

test("what is typed as it is said comes to what the brief has", () => {
	expect(asRoutes("10.97.0.0/16 by 10.72.1.8 and 10.72.1.9\n\nfd97::/32 fd72::9")).toEqual(
		Object.fromEntries([
			["10.97.0.0/16", ["10.72.1.8", "10.72.1.9"]],
			["fd97::/32", ["fd72::9"]],
		]),
	);
	expect(asImports("intake: dish-feeds, fd80:1::/64")).toEqual({ intake: ["dish-feeds", "fd80:1::/64"] });
	expect([asRoutes(" \n"), asImports("")]).toEqual([null, null]);
});

test("hosts are told by the entries of the brief, with a way to their ports", () => {
	const host = { at: ["r01 h1..h8"], plug: "web", team: "Tide Models", note: "" };
	const many = Object.fromEntries(Array.from({ length: 8 }, (_, at) => [`web-${at}..web-${at}9`, host]));
	render(
		<MemoryRouter>
			<Hosts brief={{ ...BRIEF, hosts: many as never, default_plug: null }} name="marlin" />
		</MemoryRouter>,
	);
	expect(screen.getAllByRole("listitem")[0]?.textContent).toBe(
		"web-0..web-09 at r01 h1..h8, by web, of Tide Models",
	);
	expect(screen.getByText(/And 2 more\. Ports without a host are shut\./)).toBeTruthy();
	expect(screen.getByRole("link", { name: "web-0..web-09" }).getAttribute("href")).toBe(
		"/f/marlin/segments?find=web-0",
	);
});
