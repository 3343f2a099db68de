/** Claims about people: the weave of who and which fabric, roles given and taken, teams, sharing, one's own page. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { Refusal, ROW, serve, show, somebody } from "../testing";
import { OwnPage, program } from "./own";
import type { Given, MePage, People } from "./queries";
import { PeopleScreen } from "./screen";
import { Share } from "./share";

const WHEN = "2026-05-04T09:30:00Z";
const person = (name: string, called: string, more = {}) => ({
	id: 1,
	name,
	called,
	has_password: true,
	has_second: false,
	keys: [],
	manners: {},
	made_at: WHEN,
	left_at: null,
	seen_at: WHEN,
	...more,
});
const given = (id: number, role: string, more: Partial<Given> = {}): Given => ({
	id,
	person: null,
	team: null,
	role,
	fabric: null,
	...more,
});
const PEOPLE: People = {
	people: [
		person("ines", "Ines Marrero"),
		person("per", "Per Lindqvist", { has_password: false, seen_at: null }),
		person("gone", "Abel Gone", { left_at: WHEN }),
	],
	teams: [{ id: 1, name: "Buoys", note: "sensors", members: ["per"] }],
	given: [
		given(1, "architect", { person: "ines" }),
		given(2, "reader", { team: "Buoys", fabric: "marlin" }),
		given(3, "keeper", { person: "ines" }),
	],
};
const TABLE = {
	roles: ["reader", "architect", "reviewer", "technician", "operator", "keeper"].map((role) => ({
		role,
		words: `what a ${role} does`,
	})),
	rights: [
		{ right: "edit", words: "change the brief", roles: ["architect"] },
		{ right: "read", words: "see the fabric", roles: ["reader", "architect"] },
	],
};
const DONE = () => new Response(null, { status: 204 });
const ANSWERS = { "GET /people": PEOPLE, "GET /roles": TABLE, "GET /fabrics": [ROW] };

function people(answers: Record<string, unknown> = {}, at = "/people") {
	const asked = serve({ ...ANSWERS, ...answers });
	show(<PeopleScreen />, at, undefined, false);
	return asked;
}

test("each crossing says what somebody is to a fabric, themselves or by a team, and who left is put aside", async () => {
	people();
	expect(
		await screen.findByRole("button", { name: "Ines Marrero, all fabrics: architect, keeper" }),
	).toBeTruthy();
	expect(screen.getByRole("button", { name: "Per Lindqvist, marlin: reader" })).toBeTruthy();
	expect(screen.getByRole("button", { name: "Buoys, marlin: reader" })).toBeTruthy();
	expect(screen.getByRole("button", { name: "Per Lindqvist, all fabrics: nothing" })).toBeTruthy();
	expect(screen.queryByText("Abel Gone")).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "Show 1 who left" }));
	expect(screen.getByText("Abel Gone")).toBeTruthy();
	expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("2 people");
	const table = screen.getByRole("region", { name: "What a role may do" });
	expect(within(table).getAllByText("may")).toHaveLength(3);
});

test("a role is given and taken at its crossing; one that a team gives cannot be taken from its member", async () => {
	const asked = people({ "POST /fabrics/marlin/sharing": DONE, "DELETE /grants/1": DONE });
	await userEvent.click(await screen.findByRole("button", { name: "Per Lindqvist, marlin: reader" }));
	const roles = within(screen.getByRole("group", { name: "Per Lindqvist and marlin" }));
	expect(roles.queryByRole("checkbox", { name: /keeper/ })).toBeNull();
	expect(roles.getByRole<HTMLInputElement>("checkbox", { name: /reader by Buoys/ }).checked).toBe(false);
	await userEvent.click(roles.getByRole("checkbox", { name: /technician/ }));
	await waitFor(() =>
		expect(asked.find((one) => one.method === "POST")?.path).toBe("/fabrics/marlin/sharing"),
	);
	expect(asked.find((one) => one.method === "POST")?.body).toEqual({
		role: "technician",
		person: "per",
		team: null,
	});
	await userEvent.keyboard("{Escape}");
	await userEvent.click(screen.getByRole("button", { name: /Ines Marrero, all fabrics/ }));
	await userEvent.click(screen.getByRole("checkbox", { name: /architect/ }));
	await waitFor(() => expect(asked.some((one) => one.path === "/grants/1")).toBe(true));
});

test("a refusal, as of the last keeper's role, is told in its own words", async () => {
	people({ "DELETE /grants/3": new Refusal(422, "ines is the last keeper.") });
	await userEvent.click(await screen.findByRole("button", { name: /Ines Marrero, all fabrics/ }));
	await userEvent.click(screen.getByRole("checkbox", { name: /keeper/ }));
	expect(await screen.findByText("ines is the last keeper.")).toBeTruthy();
});

test("somebody new is given a link, shown once", async () => {
	const asked = people({ "POST /people": { secret: "s3cret" } });
	await userEvent.click(await screen.findByRole("button", { name: "Add somebody" }));
	await userEvent.type(screen.getByLabelText("They are called"), "Nadia Oke");
	await userEvent.type(screen.getByLabelText("and sign in as"), "nadia{Enter}");
	expect((await screen.findByText(/enter#s3cret/)).textContent).toBe(`${location.origin}/enter#s3cret`);
	expect(asked.find((one) => one.path === "/people" && one.method === "POST")?.body).toEqual({
		name: "nadia",
		called: "Nadia Oke",
	});
});

test("the margin says who somebody is, puts them in teams, and lets them leave", async () => {
	const asked = people(
		{ "PUT /teams/Buoys": DONE, "PUT /people/per/presence": DONE, "POST /people/per/link": { secret: "x" } },
		"/people?person=per",
	);
	expect(await screen.findByText("not chosen yet")).toBeTruthy();
	await userEvent.click(screen.getByRole("checkbox", { name: "Buoys" }));
	await waitFor(() =>
		expect(asked.find((one) => one.path === "/teams/Buoys")?.body).toEqual({ note: "sensors", members: [] }),
	);
	await userEvent.click(screen.getByRole("button", { name: /They have left/ }));
	await waitFor(() =>
		expect(asked.find((one) => one.path.endsWith("presence"))?.body).toEqual({ left: true }),
	);
	await userEvent.click(screen.getByRole("button", { name: "Another link to come in" }));
	expect(await screen.findByText(/enter#x/)).toBeTruthy();
});

test("a team is made with nobody in it, filled, and ended with what it gave", async () => {
	const asked = people(
		{ "PUT /teams/Intake": DONE, "DELETE /teams/Buoys": DONE, "PUT /teams/Buoys": DONE },
		"/people?team=Buoys",
	);
	await userEvent.click(await screen.findByRole("checkbox", { name: "Ines Marrero" }));
	await waitFor(() =>
		expect(asked.find((one) => one.path === "/teams/Buoys")?.body).toMatchObject({
			members: ["per", "ines"],
		}),
	);
	await userEvent.click(screen.getByRole("button", { name: "End the team" }));
	expect(await screen.findByText(/Team Buoys has ended/)).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Add a team" }));
	await userEvent.type(screen.getByLabelText("The team is called"), "Intake{Enter}");
	await waitFor(() =>
		expect(asked.find((one) => one.path === "/teams/Intake")?.body).toEqual({ note: "", members: [] }),
	);
});

const SHARING = {
	people: [
		{ name: "ines", called: "Ines Marrero" },
		{ name: "per", called: "Per Lindqvist" },
	],
	teams: ["Buoys"],
	given: [given(1, "architect", { person: "ines" }), given(2, "reader", { team: "Buoys", fabric: "marlin" })],
};

test("a fabric is shared in two clicks, and who has the role already is not offered", async () => {
	const asked = serve({
		...ANSWERS,
		"GET /fabrics/marlin/sharing": SHARING,
		"POST /fabrics/marlin/sharing": DONE,
		"DELETE /fabrics/marlin/sharing/2": DONE,
	});
	show(<Share fabric="marlin" />);
	await userEvent.click(screen.getByRole("button", { name: "Share" }));
	expect(await screen.findByRole("button", { name: "Per Lindqvist per" })).toBeTruthy();
	expect(screen.queryByRole("button", { name: "Buoys team" })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "Per Lindqvist per" }));
	await waitFor(() =>
		expect(asked.find((one) => one.method === "POST")?.body).toEqual({
			role: "reader",
			person: "per",
			team: null,
		}),
	);
	await userEvent.selectOptions(screen.getByLabelText("Role"), "operator");
	expect(screen.getByRole("button", { name: "Buoys team" })).toBeTruthy();
	expect(screen.queryByRole("button", { name: /Take architect/ })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "Take reader from Buoys" }));
	await waitFor(() => expect(asked.some((one) => one.path === "/fabrics/marlin/sharing/2")).toBe(true));
});

test("who may not share is not offered to", () => {
	serve({});
	show(<Share fabric="marlin" />, undefined, undefined, true, somebody(["read", "share"], ["tern"]));
	expect(screen.queryByRole("button")).toBeNull();
});

const ME: MePage = {
	name: "ines",
	called: "Ines Marrero",
	second: false,
	keys: [],
	manners: {},
	given: [given(1, "architect", { person: "ines" }), given(2, "reader", { team: "Buoys", fabric: "tern" })],
	sessions: [
		{
			id: 7,
			began_at: WHEN,
			seen_at: WHEN,
			ends_at: WHEN,
			address: "127.0.0.1",
			agent: "Mozilla/5.0 (X11; Linux) Firefox/140",
		},
		{ id: 8, began_at: WHEN, seen_at: WHEN, ends_at: WHEN, address: "127.0.0.2", agent: "curl/8.5" },
	],
	here: 7,
	passkeys: [],
	outside: null,
	tokens: [
		{ id: 1, name: "nightly", roles: ["reader"], fabrics: null, made_at: WHEN, ends_at: WHEN, used_at: null },
	],
};

test("one's own page says what one is, where one is signed in, and ends what one does not know", async () => {
	const asked = serve({
		"GET /me": ME,
		"DELETE /me/sessions/8": DONE,
		"DELETE /me/sessions": DONE,
		"DELETE /me/tokens/nightly": DONE,
	});
	show(<OwnPage />, "/me", undefined, false);
	const here = within(await screen.findByRole("region", { name: "Where you are signed in" }));
	expect(here.getByText(/Firefox on Linux/)).toBeTruthy();
	await userEvent.click(here.getByRole("button", { name: "End" }));
	await userEvent.click(here.getByRole("button", { name: "End all but this one" }));
	await userEvent.click(screen.getByRole("button", { name: "End token nightly" }));
	await waitFor(() =>
		expect(asked.filter((one) => one.method === "DELETE").map((one) => one.path)).toEqual([
			"/me/sessions/8",
			"/me/sessions",
			"/me/tokens/nightly",
		]),
	);
	expect(screen.getByRole("region", { name: "What you are here" }).textContent).toMatch(
		/architect of all fabrics.*reader of ternby Buoys/,
	);
	expect([program("curl/8.5"), program("Mozilla/5.0 (Macintosh) Safari/1"), program("")]).toEqual([
		"curl",
		"Safari on macOS",
		"a program",
	]);
});

test("theme and dates are kept with the person, and hold at once", async () => {
	const asked = serve({ "GET /me": ME, "PUT /me": DONE });
	show(<OwnPage />, "/me", undefined, false);
	await userEvent.selectOptions(await screen.findByLabelText("Theme"), "dark");
	await userEvent.selectOptions(screen.getByLabelText("Dates"), "2026-05-04");
	await userEvent.click(screen.getByRole("button", { name: "Keep it so" }));
	await waitFor(() => expect(document.documentElement.dataset.theme).toBe("dark"));
	expect(asked.find((one) => one.method === "PUT")?.body).toMatchObject({
		manners: { theme: "dark", dates: "iso" },
	});
	localStorage.clear();
});

test("a new password needs the old one, and says what is wrong with it", async () => {
	const asked = serve({
		"GET /me": ME,
		"PUT /me/password": new Refusal(422, "A password has 12 characters or more."),
	});
	show(<OwnPage />, "/me", undefined, false);
	await userEvent.type(await screen.findByLabelText(/The one you have/), "old");
	await userEvent.type(screen.getByLabelText(/The new one/), "short{Enter}");
	expect((await screen.findByRole("alert")).textContent).toContain("12 characters");
	expect(asked.find((one) => one.method === "PUT")?.body).toEqual({ old: "old", new: "short" });
});

test("a second factor is set up once its app shows a code, and is taken away by the password", async () => {
	let second = false;
	const asked = serve({
		"GET /me": () => ({ ...ME, second }),
		"POST /me/second": { secret: "ABCDEFGH", uri: "otpauth://totp/Barrio:ines" },
		"PUT /me/second": () => {
			second = true;
			return DONE();
		},
		"POST /me/second/end": DONE,
	});
	show(<OwnPage />, "/me", undefined, false);
	await userEvent.click(await screen.findByRole("button", { name: "Set up codes" }));
	expect((await screen.findByText("ABCD EFGH")).tagName).toBe("OUTPUT");
	await userEvent.type(screen.getByLabelText("It shows now"), "123456{Enter}");
	const part = within(await screen.findByRole("region", { name: "Second factor" }));
	await userEvent.type(await part.findByLabelText("Password"), "four words{Enter}");
	await waitFor(() => expect(asked.some((one) => one.path === "/me/second/end")).toBe(true));
	expect(asked.find((one) => one.path === "/me/second" && one.method === "PUT")?.body).toEqual({
		secret: "ABCDEFGH",
		code: "123456",
	});
});

test("a token has some of one's roles, for some fabrics, and is shown once", async () => {
	const asked = serve({ "GET /me": ME, "POST /me/tokens": { token: "t0ken" } });
	show(<OwnPage />, "/me", undefined, false);
	await userEvent.click(await screen.findByRole("button", { name: "New token" }));
	await userEvent.type(screen.getByLabelText("It is for"), "exports");
	await userEvent.type(screen.getByLabelText(/for these fabrics/), "tern");
	await userEvent.click(screen.getByRole("checkbox", { name: "reader" }));
	expect(screen.queryByRole("checkbox", { name: "keeper" })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "Make it" }));
	expect(await screen.findByText("t0ken")).toBeTruthy();
	expect(asked.find((one) => one.path === "/me/tokens")?.body).toEqual({
		name: "exports",
		roles: ["reader"],
		fabrics: ["tern"],
		days: 90,
	});
});
