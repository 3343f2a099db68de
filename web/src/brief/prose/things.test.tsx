/** Claims about the words that stand for things: segments, VRFs, systems outside, marks, racks, routing; each makes its edits. */

import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { Brief } from "../../api/client";
import { MARLIN, PELICAN, Refusal, SHELF, serve, show, TALL } from "../../testing";
import { TrialRoom } from "../sums/trial";
import { Group } from "./groups";
import { Marked, Outside } from "./outside";
import { Routing } from "./routing";
import { Segments } from "./segments";
import { Access } from "./sentences";
import { Shape } from "./shape";

function said(part: React.ReactNode, fabric = MARLIN, more: Record<string, unknown> = {}) {
	const asked = serve({
		"GET /catalogue": SHELF,
		[`GET /fabrics/${fabric.name}/weave`]: TALL,
		[`POST /fabrics/${fabric.name}/options`]: [],
		[`POST /fabrics/${fabric.name}/edits`]: { ...fabric, version: 4 },
		...more,
	});
	show(<TrialRoom>{part}</TrialRoom>, `/f/${fabric.name}/brief`, fabric);
	return async () => {
		await waitFor(() => expect(asked.some((one) => one.path.endsWith("/edits"))).toBe(true));
		return asked.find((one) => one.path.endsWith("/edits"))?.body as {
			edits: unknown;
			note: string;
			version: number;
		};
	};
}

const brief = (more: Partial<Brief>): Brief => ({ ...MARLIN.brief, ...more });
const open = (name: string | RegExp) => userEvent.click(screen.getByRole("button", { name }));
const fill = async (label: string, text: string) => {
	await userEvent.clear(screen.getByLabelText(label));
	if (text) await userEvent.type(screen.getByLabelText(label), text);
};

test("a segment is added with what was said of it, and nothing that was left out", async () => {
	const edits = said(<Segments brief={MARLIN.brief} all={false} />);
	await open("Add a segment");
	await fill("Name", "crane-cams");
	await userEvent.selectOptions(
		screen.getByLabelText("Routed in"),
		Object.keys(MARLIN.brief.vrfs ?? {})[0] as string,
	);
	await fill("VLAN", "300");
	await fill("IPv4", "auto/26");
	await userEvent.selectOptions(screen.getByLabelText("On ports"), "untagged");
	await open("Add it");
	expect(await edits()).toEqual({
		version: MARLIN.version,
		edits: [
			[
				"segments.crane-cams",
				{ vrf: Object.keys(MARLIN.brief.vrfs ?? {})[0], v4: "auto/26", vlan: 300, untagged: true },
			],
		],
		note: "segment crane-cams",
	});
});

test("of a segment only what was changed is an edit, and what was emptied goes back to its default", async () => {
	const [name, segment] = Object.entries(MARLIN.brief.segments ?? {}).find(([, one]) => one.v4) ?? [];
	const edits = said(<Segments brief={MARLIN.brief} all={false} />);
	await open(String(name));
	expect(screen.getByLabelText<HTMLInputElement>("IPv4").value).toBe(segment?.v4);
	await fill("IPv4", "");
	await userEvent.selectOptions(screen.getByLabelText("IPv6 hosts"), "ask DHCP");
	await open("Change it");
	expect((await edits()).edits).toEqual([
		[`segments.${name}.v4`, null],
		[`segments.${name}.ra`, "managed"],
	]);
});

test("a segment and a VRF are taken out whole", async () => {
	const name = Object.keys(MARLIN.brief.segments ?? {})[0] as string;
	const edits = said(<Segments brief={MARLIN.brief} all={false} />);
	await open(name);
	await open("Take it out");
	expect(await edits()).toMatchObject({ edits: [[`segments.${name}`, null]], note: `no segment ${name}` });
});

test("a refusal stays in the form, which keeps what was typed", async () => {
	said(<Segments brief={MARLIN.brief} all={false} />, MARLIN, {
		"POST /fabrics/marlin/edits": new Refusal(422, "x", [
			{ message: "A VRF cannot be called main.", line: 0 },
		]),
	});
	await open("Add a VRF");
	await fill("Name", "main");
	await open("Add it");
	expect((await screen.findByRole("alert")).textContent).toBe("A VRF cannot be called main.");
	expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("main");
});

test("a form that changes nothing asks nothing and closes", async () => {
	const asked = serve({});
	show(<Segments brief={MARLIN.brief} all={false} />);
	await open(String(Object.keys(MARLIN.brief.segments ?? {})[0]));
	await open("Change it");
	await waitFor(() => expect(screen.queryByRole("button", { name: "Change it" })).toBeNull());
	expect(asked).toEqual([]);
});

test("what stands at its default is said only when all is asked for", () => {
	const few = show(<Segments brief={MARLIN.brief} all={false} />).container.textContent ?? "";
	expect(few).not.toContain("Gateways answer with");
	const all = show(<Segments brief={MARLIN.brief} all={true} />).container.textContent ?? "";
	expect(all).toContain(`Gateways answer with ${MARLIN.brief.overlay.gateway_mac}`);
	expect(all).toContain(`Hosts send up to ${MARLIN.brief.overlay.host_mtu} bytes`);
});

test("a system outside says its policy, and what it may tell is a list of prefixes", async () => {
	const [name, system] = Object.entries(PELICAN.brief.outside ?? {})[0] ?? [];
	const edits = said(<Outside brief={PELICAN.brief} />, PELICAN);
	expect(document.body.textContent).toContain(`AS ${system?.asn}, at`);
	expect(document.body.textContent).toContain("It may tell 10.99.0.0/16");
	await open(String(name));
	await fill("It may tell", "10.99.0.0/16, fd99::/48  10.98.0.0/16");
	await userEvent.selectOptions(screen.getByLabelText("Default route"), "neither way");
	await fill("Most prefixes", "500");
	await open("Change it");
	expect((await edits()).edits).toEqual([
		[`outside.${name}.kind`, system?.kind],
		[`outside.${name}.asn`, system?.asn],
		[`outside.${name}.accept`, ["10.99.0.0/16", "fd99::/48", "10.98.0.0/16"]],
		[`outside.${name}.default`, null],
		[`outside.${name}.max_prefixes`, 500],
	]);
});

test("another link of a system is at a border leaf, on a port, in a VRF", async () => {
	const [name, system] = Object.entries(PELICAN.brief.outside ?? {})[0] ?? [];
	const edits = said(<Outside brief={PELICAN.brief} />, PELICAN);
	await waitFor(() => expect(screen.queryByText(/give racks that role first/)).toBeNull());
	await open("Add a link");
	const leaves = within(screen.getByLabelText("At")).getAllByRole("option");
	expect(leaves.map((one) => one.textContent)).toEqual(
		TALL.leaves.filter((one) => one.role === "border").map((one) => one.name),
	);
	await fill("Port", "h47");
	await fill("Its port", "e1/9");
	await fill("Tag", "310");
	await open("Add it");
	const [[path, link]] = (await edits()).edits as [[string, Record<string, unknown>]];
	expect(path).toBe(`outside.${name}.links[${system?.links.length}]`);
	expect(link).toEqual({
		switch: TALL.leaves.find((one) => one.role === "border")?.key,
		port: "h47",
		far_port: "e1/9",
		vrfs: { [Object.keys(PELICAN.brief.vrfs ?? {})[0] as string]: { vlan: 310, v4: "auto" } },
	});
});

test("without a VRF or a border leaf a system outside cannot be added, and that is said", async () => {
	said(<Outside brief={brief({ vrfs: {}, outside: {} })} />);
	expect(screen.getByText(/add a VRF first/)).toBeTruthy();
	said(<Outside brief={brief({ outside: {} })} />, MARLIN, {
		"GET /fabrics/marlin/weave": { ...TALL, leaves: [] },
	});
	expect(await screen.findByText(/give racks that role first/)).toBeTruthy();
});

test("what is out of service or for later says why, and comes back in one step", async () => {
	const marked = brief({ out_of_service: { "leaf/r03/a": "fan" }, planned_later: { "rack/r09": "" } });
	const edits = said(<Marked brief={marked} />);
	expect(screen.getAllByRole("listitem").map((one) => one.textContent)).toEqual([
		"r03/a out of service: fan",
		"r09 planned later",
	]);
	await open("r03/a");
	await open("Take it out");
	expect(await edits()).toMatchObject({
		edits: [['out_of_service."leaf/r03/a"', null]],
		note: "leaf/r03/a back in service",
	});
});

test("a count of racks resizes their range, and the range can be typed as it is", async () => {
	const edits = said(
		<p>
			<Group brief={MARLIN.brief} index={0} all={false} />
		</p>,
	);
	expect(screen.getByRole("paragraph").textContent).toContain("12 racks r01..r12, each with a pair of");
	await open("12");
	await userEvent.type(screen.getByLabelText("1 racks …"), "{Control>}a{/Control}14{Enter}");
	expect(await edits()).toMatchObject({ edits: [["racks[0].racks", "r01..r14"]], note: "14 racks r01..r14" });
});

test("a group of racks is taken out by its cross, and what is particular to it is said", async () => {
	const racks = MARLIN.brief.racks?.map((one, index) =>
		index ? one : { ...one, pairing: "multihoming" as const, lags: "h1..h4", growth: 2, host_speed: 10 },
	);
	const edits = said(
		<p>
			<Group brief={brief({ racks })} index={0} all={false} />
		</p>,
	);
	const text = screen.getByRole("paragraph").textContent;
	expect(text).toContain("joined by EVPN multihoming");
	expect(text).toContain("hosts at 10G");
	expect(text).toContain("LAGs on h1..h4");
	expect(text).toContain("2 to come");
	await open("take out racks r01..r12");
	await open("Take it out");
	expect(await edits()).toMatchObject({ edits: [["racks[0]", null]], note: "no racks r01..r12" });
});

test("an IGP below brings iBGP above with it", async () => {
	const edits = said(<Routing brief={MARLIN.brief} all={false} />);
	await open("eBGP");
	await open("OSPF");
	expect(await edits()).toMatchObject({
		edits: [
			["underlay.protocol", "ospf"],
			["overlay.protocol", "ibgp"],
		],
		note: "OSPF underlay",
	});
});

test("under an IGP the prose speaks of hellos and one AS, under eBGP of ASNs", () => {
	const ospf = brief({
		underlay: { ...MARLIN.brief.underlay, protocol: "ospf", hello: 5 },
		overlay: { ...MARLIN.brief.overlay, protocol: "ibgp", reflectors: 2 },
	});
	const below = show(<Routing brief={ospf} all={false} />).container.textContent;
	expect(below).toContain("All of it is one AS. Hello every 5 s");
	expect(below).toContain("by 2 reflectors");
	const above = show(<Routing brief={MARLIN.brief} all={false} />).container.textContent;
	expect(above).toContain("share one ASN; each leaf has its own");
	expect(above).not.toContain("Hello every");
});

test("the shape of three tiers says its pods, planes and super-spines", async () => {
	said(
		<section aria-label="shape">
			<Shape brief={PELICAN.brief} all={false} />
		</section>,
		PELICAN,
	);
	const text = screen.getByLabelText("shape").textContent ?? "";
	expect(text).toContain("p01..p04");
	expect(text).toMatch(/4 spines in each pod/);
	expect(text).toMatch(/super-spines/);
});

test("who may sign in is offered with the keys of their own page, and those who may already are not", async () => {
	const asked = serve({
		"GET /fabrics/marlin/keys": [
			{ name: "nadia", called: "Nadia Oke", keys: ["ssh-ed25519 AAAA nadia"] },
			{ name: "ines", called: "Ines Marrero", keys: ["ssh-ed25519 BBBB ines"] },
		],
		"POST /fabrics/marlin/edits": { ...MARLIN, version: 9 },
	});
	const services = {
		...MARLIN.brief.services,
		users: { ines: { role: "admin" as const, keys: ["ssh-ed25519 BBBB ines"], groups: [] } },
	};
	show(<Access brief={{ ...MARLIN.brief, services } as typeof MARLIN.brief} all={false} />);
	await userEvent.click(screen.getByRole("button", { name: "Add someone" }));
	await userEvent.click(await screen.findByRole("button", { name: "Nadia Oke" }));
	expect(screen.queryByRole("button", { name: "Ines Marrero" })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "Add them" }));
	await waitFor(() =>
		expect(asked.find((one) => one.method === "POST")?.body).toMatchObject({
			edits: [["services.users.nadia", { keys: ["ssh-ed25519 AAAA nadia"] }]],
		}),
	);
});
