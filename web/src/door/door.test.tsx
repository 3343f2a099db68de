/** Claims about the door: who comes in by what, what is said when they do not, and what is behind it for whom. */
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, expect, test } from "vitest";
import { calls } from "../api/client";
import { OLMO, Refusal, serve, show, somebody } from "../testing";
import { Enter } from "./enter";
import { initials, Me } from "./me";
import { Signed } from "./signed";

const problem = (type: string, status = 401, detail = "No.") =>
	new Response(
		JSON.stringify({ type: `urn:barrio:problem:${type}`, title: "", status, detail, faults: [] }),
		{
			status,
			headers: { "Content-Type": "application/problem+json" },
		},
	);

beforeEach(() => {
	location.hash = "";
});

const door = (answers: Record<string, unknown>, who = null as typeof OLMO | null) => {
	const asked = serve(answers);
	show(<Signed>behind the door</Signed>, "/f/marlin/brief", undefined, false, who);
	return asked;
};

test("who is not signed in fills in a sentence, and finds what they came for behind it", async () => {
	let inside = false;
	const asked = door({
		"GET /session": () => (inside ? OLMO : problem("sign-in")),
		"POST /session": () => {
			inside = true;
			return new Response(null, { status: 204 });
		},
	});
	await userEvent.type(screen.getByLabelText("Name"), "ines");
	await userEvent.type(screen.getByLabelText("Password"), "four words for a harbour{Enter}");
	expect(await screen.findByText("behind the door")).toBeTruthy();
	expect(asked.find((one) => one.method === "POST")?.body).toEqual({
		name: "ines",
		password: "four words for a harbour",
		code: "",
	});
	expect(screen.getByLabelText("where").textContent).toBe("/f/marlin/brief");
	expect(JSON.stringify(calls)).not.toContain("four words for a harbour");
});

test("a code is asked for when there is a second factor, without calling it a mistake", async () => {
	const asked = door({ "POST /session": () => problem("sign-in.code") });
	await userEvent.type(screen.getByLabelText("Name"), "ines");
	await userEvent.type(screen.getByLabelText("Password"), "four words{Enter}");
	await userEvent.type(await screen.findByLabelText("Code"), "123456{Enter}");
	expect(screen.queryByRole("alert")).toBeNull();
	await waitFor(() => expect(asked.at(-1)?.body).toMatchObject({ code: "123456" }));
});

test("a refusal is said at the door, and what was typed stays", async () => {
	door({ "POST /session": problem("busy", 429, "It can be tried again in 64 s.") });
	await userEvent.type(screen.getByLabelText("Name"), "ines");
	await userEvent.type(screen.getByLabelText("Password"), "guess{Enter}");
	expect((await screen.findByRole("alert")).textContent).toContain("64 s");
	expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("ines");
});

test("when a call finds the session ended, the door is there, whatever was open", async () => {
	door({}, OLMO);
	expect(screen.getByText("behind the door")).toBeTruthy();
	dispatchEvent(new Event("signedout"));
	expect(await screen.findByRole("heading", { name: "Who is there?" })).toBeTruthy();
});

test.each([
	["first", "Move in", ["Called", "Name", "Password"], "/links/first"],
	["welcome", "Come in", ["New password"], "/links/enter"],
	["enter", "Come in", [], "/links/enter"],
])(
	"a link for %s asks just what it needs, and shows its secret in no address",
	async (purpose, verb, gaps, path) => {
		location.hash = "#s3cret";
		const asked = serve({
			"POST /links/look": { purpose, name: "nadia" },
			"POST /links/first": new Response(null, { status: 204 }),
			"POST /links/enter": new Response(null, { status: 204 }),
		});
		show(<Enter />, "/enter", undefined, false, null);
		const button = await screen.findByRole("button", { name: verb });
		for (const gap of gaps) await userEvent.type(screen.getByLabelText(gap), `my ${gap}`);
		expect(
			screen.queryAllByRole("textbox").length + document.querySelectorAll("[type=password]").length,
		).toBe(gaps.length);
		await userEvent.click(button);
		await waitFor(() => expect(asked.at(-1)?.path).toBe(path));
		expect(asked.at(-1)?.body).toMatchObject({ secret: "s3cret" });
		expect(asked.every((one) => !one.path.includes("s3cret") && !one.query.has("secret"))).toBe(true);
		await waitFor(() => expect(screen.getByLabelText("where").textContent).toBe("/"));
	},
);

test("a link that was used, or of which half is missing, says so and shows the way to the door", async () => {
	location.hash = "#old";
	serve({ "POST /links/look": new Refusal(401, "This link has been used.") });
	show(<Enter />, "/enter", undefined, false, null);
	expect(await screen.findByText("This link has been used.")).toBeTruthy();
	cleanup();
	location.hash = "";
	show(<Enter />, "/enter", undefined, false, null);
	expect(screen.getByRole("heading").textContent).toMatch(/behind its # is missing/);
	expect(screen.getByRole("link", { name: "Sign in" }).getAttribute("href")).toBe("/");
});

test("people and the record are offered to whoever keeps them, one's own page and the way out to all", async () => {
	const asked = serve({ "DELETE /session": new Response(null, { status: 204 }) });
	show(<Me />, "/", undefined, false, somebody(["read", "look"]));
	await userEvent.click(screen.getByRole("button"));
	expect(screen.getByRole("link", { name: "Own page" })).toBeTruthy();
	expect(screen.queryByRole("link", { name: "People" })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "Sign out" }));
	expect(asked[0]).toMatchObject({ method: "DELETE", path: "/session" });
	cleanup();
	show(<Me />, "/", undefined, false, OLMO);
	await userEvent.click(screen.getByRole("button"));
	expect(screen.getByRole("link", { name: "Record" }).getAttribute("href")).toBe("/record");
	expect([initials("Nadia Oke"), initials("Per"), initials("Ana de la Cruz")]).toEqual(["NO", "P", "AD"]);
});
