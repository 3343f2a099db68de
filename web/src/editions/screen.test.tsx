/** Claims about editions: the letter says what changes and in which order, review acts on exactly what was seen, and older ones come back. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, OLMO, Refusal, serve, show } from "../testing";
import { EDITION, LIKE, REVIEW, RIPPLE, TOUCHED } from "./made";
import { contracted } from "./names";
import { EditionsScreen } from "./screen";

const F = "/fabrics/marlin";

function editions(answers: Record<string, unknown> = {}, at = "/f/marlin/editions", who = OLMO): Asked[] {
	const asked = serve({
		[`GET ${F}/editions`]: [EDITION],
		[`GET ${F}/review`]: REVIEW,
		[`GET ${F}/ripple`]: RIPPLE,
		[`GET ${F}/ripple/switches`]: TOUCHED,
		[`GET ${F}/ripple/groups`]: [LIKE],
		[`GET ${F}/switches`]: [],
		...answers,
	});
	show(<EditionsScreen />, at, undefined, true, who);
	return asked;
}

const sent = (asked: Asked[], method: string, path: string) =>
	asked.filter((one) => one.method === method && one.path === `${F}${path}`).map((one) => one.body);

test("a draft reads as a letter: what and why, words, effect, order with what stays, and like lines once", async () => {
	editions();
	expect(await screen.findByRole("heading", { name: "A quicker BFD" })).toBeTruthy();
	const letter = within(screen.getByRole("main"));
	expect(letter.getByText("After Sunday's rehearsal.")).toBeTruthy();
	expect((await letter.findByText("underlay.bfd.interval")).parentElement?.textContent).toContain(
		"from 300 to 100",
	);
	expect((await letter.findByText("1 leaf new")).parentElement?.textContent).toContain("+630 −0 lines");
	const waves = letter.getAllByRole("listitem").map((one) => one.textContent);
	expect(waves[0]).toBe(
		"1spine-1 every leaf has the others; 75 % of bandwidth stays between any two other leaves",
	);
	expect(waves[1]).toContain(
		"leaf-r01a … leaf-r03a its hosts have the other; leaf-r01a is cut off meanwhile",
	);
	expect(letter.getByText(/No order with fewer than 2 waves/)).toBeTruthy();
	expect((await letter.findByText("the same 2 lines on 30 switches")).parentElement?.textContent).toContain(
		"frr.conf",
	);
});

test("who agrees, agrees to what they have seen; who changed it is offered nothing of the kind", async () => {
	const asked = editions({ [`POST ${F}/review/voices`]: REVIEW });
	await userEvent.type(await screen.findByLabelText("With these words"), "well");
	await userEvent.click(screen.getByRole("button", { name: "Agree" }));
	await waitFor(() =>
		expect(sent(asked, "POST", "/review/voices")).toEqual([
			{ verdict: "agrees", note: "well", seen: REVIEW.seen },
		]),
	);
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Seal the edition" }).disabled).toBe(true);
});

test("one's own draft is nobody's to agree to but others'", async () => {
	editions({ [`GET ${F}/review`]: { ...REVIEW, editors: ["Olmo Reyes"] } });
	expect(await screen.findByText(/You changed this draft/)).toBeTruthy();
	expect(screen.queryByRole("button", { name: "Agree" })).toBeNull();
});

test("an agreement to what was before says what is new since", async () => {
	const voice = {
		id: 7,
		verdict: "agrees",
		note: "",
		author: "Luz",
		said_at: "2026-11-12T14:58:00Z",
		current: false,
		last: true,
	};
	editions({
		[`GET ${F}/review`]: { ...REVIEW, voices: [voice] },
		[`GET ${F}/review/voices/7/since`]: { ...RIPPLE, changed: 2 },
	});
	expect(
		await screen.findByText(/Since: underlay.bfd.interval, on 2 switches. Luz has to look again./),
	).toBeTruthy();
	expect(screen.getByRole("heading", { name: "0 of 1" })).toBeTruthy();
});

test("a line says why it does what it does, and takes a comment with where it stands", async () => {
	const asked = editions({ [`POST ${F}/review/comments`]: REVIEW });
	await userEvent.click(await screen.findByRole("button", { name: "receive-interval 100" }));
	expect(screen.getByText(/timers of BFD are renegotiated/).textContent).toContain("RFC 5880, 6.8.3");
	await userEvent.type(
		screen.getByLabelText("Comment on receive-interval 100"),
		"Can the router do it?{Enter}",
	);
	await waitFor(() =>
		expect(sent(asked, "POST", "/review/comments")).toEqual([
			{
				thing: "line",
				at: "spine-1 etc/frr/frr.conf",
				stood: "receive-interval 100",
				words: "Can the router do it?",
			},
		]),
	);
});

test("a draft is offered with a sentence; what is refused is told and stays as typed", async () => {
	const asked = editions({
		[`GET ${F}/review`]: { ...REVIEW, offer: null },
		[`PUT ${F}/review`]: new Refusal(409, "The draft was changed meanwhile."),
	});
	await userEvent.type(await screen.findByLabelText("What it is, in a sentence"), "A quicker BFD");
	await userEvent.click(screen.getByRole("button", { name: "Offer for review" }));
	expect(await screen.findByText("The draft was changed meanwhile.")).toBeTruthy();
	expect(sent(asked, "PUT", "/review")).toEqual([
		{ version: expect.any(Number), title: "A quicker BFD", why: "" },
	]);
	expect(screen.getByLabelText<HTMLInputElement>("What it is, in a sentence").value).toBe("A quicker BFD");
});

test("an edition says who asked, agreed and sealed; it is compiled anew, and it comes back as the draft", async () => {
	const two = { ...EDITION, number: 2, title: "Autumn" };
	const asked = editions(
		{
			[`GET ${F}/editions`]: [two, EDITION],
			[`POST ${F}/editions/1/again`]: { files: 640, other: [], refusal: "", cause: "" },
			[`POST ${F}/editions/1/back`]: { version: 9, not_back: [] },
		},
		"/f/marlin/editions?of=1",
	);
	const margin = within(await screen.findByLabelText("Because"));
	expect(margin.getByText("agreed").nextSibling?.textContent).toBe("Teo");
	await userEvent.click(margin.getByRole("button", { name: "Compile it anew" }));
	expect(await margin.findByText(/all 640 files are the same, byte for byte/)).toBeTruthy();
	await userEvent.click(margin.getByRole("button", { name: "Go back to edition 1" }));
	await waitFor(() => expect(sent(asked, "POST", "/editions/1/back")).toHaveLength(1));
});

test("an edition that is not there is said, with the way to the draft", async () => {
	editions({}, "/f/marlin/editions?of=9");
	await userEvent.click(await screen.findByRole("button", { name: "See the draft" }));
	expect(await screen.findByRole("heading", { name: "A quicker BFD" })).toBeTruthy();
});

test("an unsafe order is said in words", async () => {
	const order = { ...RIPPLE.order, unsafe: ["spine-1 and spine-2 lose all their sessions."] };
	editions({ [`GET ${F}/ripple`]: { ...RIPPLE, order } });
	expect((await screen.findByText("This cannot be ordered safely.")).parentElement?.textContent).toContain(
		"spine-2",
	);
});

test("a reviewer has all files read back, and sees what was found that nobody meant", async () => {
	editions({
		[`GET ${F}/readback`]: { switches: 30, refused: 0, findings: [{ message: "leaf-r01a names no AS." }] },
	});
	await userEvent.click(await screen.findByRole("button", { name: "Read all files back" }));
	expect(await screen.findByText("leaf-r01a names no AS.")).toBeTruthy();
});

test("a keeper sets how many must agree, and who has no such right sees it as words", async () => {
	const asked = editions({ [`PUT ${F}/review/rule`]: REVIEW });
	await userEvent.selectOptions(await screen.findByLabelText("How many must agree"), "2");
	await waitFor(() =>
		expect(sent(asked, "PUT", "/review/rule")).toEqual([{ agree: 2, people: [], rehearsed: false }]),
	);
});

test("sessions that restart are told with both ends, the cable, what they carry and whose lines do it", async () => {
	const session = {
		ends: ["leaf-r01a", "spine-1"],
		families: ["ipv4 unicast"],
		cable: "M-0001",
		by: ["leaf-r01a"],
	};
	editions({
		[`GET ${F}/ripple`]: {
			...RIPPLE,
			sessions: 1,
			links: ["M-0001"],
			gateways: { "tide-grid": ["leaf-r01a"] },
		},
		[`GET ${F}/ripple/sessions`]: [session],
	});
	await userEvent.click(await screen.findByRole("button", { name: "1 session restarts" }));
	const list = await screen.findByLabelText("Sessions that restart");
	expect(list.textContent).toBe("leaf-r01a – spine-1 M-0001, ipv4 unicast; by leaf-r01a");
	expect(
		screen.getByText(/1 link goes down; 1 segment loses its gateway for a moment: tide-grid/),
	).toBeTruthy();
});

test("names that count on are told as a range", () => {
	expect(contracted(["leaf-r01a", "leaf-r02a", "leaf-r03a", "spine-1"])).toBe(
		"leaf-r01a … leaf-r03a, spine-1",
	);
	expect(contracted(["a1", "b1", "c1", "d1"], 2)).toBe("a1, b1 and 2 more");
});

test("a keeper asks for a rehearsal; what a change drill showed beyond Ripple is sealed with a reason only", async () => {
	const shown = "one → two heard nothing for 3.10 s; 0.0 s at most were said";
	const asked = editions({
		[`GET ${F}/review`]: { ...REVIEW, lacking: [], despite: shown },
		[`PUT ${F}/review/rule`]: REVIEW,
		[`POST ${F}/editions`]: EDITION,
	});
	expect(await screen.findByText(new RegExp(shown.slice(0, 30)))).toBeTruthy();
	const seal = screen.getByRole<HTMLButtonElement>("button", { name: "Seal the edition" });
	expect(seal.disabled).toBe(true);
	await userEvent.click(screen.getByLabelText("A rehearsal of it must say yes to every question."));
	await waitFor(() =>
		expect(sent(asked, "PUT", "/review/rule")).toEqual([{ agree: 1, people: [], rehearsed: true }]),
	);
	await userEvent.type(screen.getByLabelText("Why it is sealed all the same"), "the window is at night");
	await userEvent.click(seal);
	await waitFor(() =>
		expect(sent(asked, "POST", "/editions")).toMatchObject([{ despite: "the window is at night" }]),
	);
});
