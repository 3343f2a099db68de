/** Claims about who is told outside: what was sent and why not, and the secret that is shown once. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { Refusal, serve, show } from "../testing";
import { OutletsScreen } from "./screen";

const WAITS = {
	id: "11111111-1111-1111-1111-111111111111",
	fabric: "tern",
	what: "sealed",
	made_at: "2026-11-12T14:20:00Z",
	next_at: "2026-11-12T15:20:00Z",
	attempts: 3,
	done_at: null,
	trouble: "/srv/git/fabrics.git has commits that are no editions.",
};
const GIT = {
	id: 4,
	kind: "git",
	fabric: null,
	address: "/srv/git/fabrics.git",
	author: "Teo",
	made_at: "2026-11-12T14:00:00Z",
	deliveries: [WAITS],
};

test("what waits says why, and is tried again at once", async () => {
	const asked = serve({
		"GET /outlets": [GIT],
		"GET /fabrics": [],
		[`POST /outlets/deliveries/${WAITS.id}`]: new Response(null, { status: 204 }),
	});
	show(<OutletsScreen />, "/outlets", undefined, false);
	expect(await screen.findByText(WAITS.trouble)).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "1 waits" }));
	await userEvent.click(screen.getByRole("button", { name: "Try now" }));
	await waitFor(() => expect(asked.some((one) => one.path.endsWith(WAITS.id))).toBe(true));
});

test("a webhook's secret is shown once; an address that cannot be one is refused where it stands", async () => {
	const answers: Record<string, unknown> = {
		"GET /outlets": [],
		"GET /fabrics": [],
		"POST /outlets": new Refusal(422, "A webhook is an address that begins with https://."),
	};
	const asked = serve(answers);
	show(<OutletsScreen />, "/outlets", undefined, false);
	await userEvent.type(await screen.findByLabelText("Address"), "ftp://x");
	await userEvent.click(screen.getByRole("button", { name: "Add it" }));
	expect(await screen.findByText(/begins with https/)).toBeTruthy();
	answers["POST /outlets"] = { id: 1, secret: "s3cret-once" };
	await userEvent.click(screen.getByRole("button", { name: "Add it" }));
	expect(await screen.findByText("s3cret-once")).toBeTruthy();
	expect(asked.filter((one) => one.method === "POST").at(-1)?.body).toEqual({
		kind: "webhook",
		fabric: null,
		address: "ftp://x",
		secret: "",
	});
});
