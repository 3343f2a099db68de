/** Claims about the search: whatever has a name or number is found and led to, and every action is one line. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import type { Hit } from "../api/client";
import { Refusal, serve, show } from "../testing";
import { Palette } from "./palette";

const hit = (kind: Hit["kind"], target: string, fabric = "tern"): Hit => ({
	kind,
	title: `${kind} title`,
	detail: `${kind} detail`,
	fabric,
	target,
});

async function search(
	words: string,
	hits: Hit[] = [],
	more: Record<string, unknown> = {},
	fabric = "marlin",
) {
	const asked = serve({ "GET /search": hits, ...more });
	const run = vi.fn();
	show(<Palette fabric={fabric || undefined} actions={[{ title: "Show the history", run }]} />);
	await userEvent.keyboard("{Control>}k{/Control}");
	if (words) await userEvent.type(await screen.findByRole("combobox"), words);
	return { asked, run };
}
const where = () => screen.getByLabelText("where").textContent;

test.each([
	[hit("switch", "leaf-r07b"), "/f/tern/configs/leaf-r07b"],
	[hit("cable", "TERN-0007"), "/f/tern/cabling?cable=TERN-0007"],
	[hit("rack", "r07"), "/f/tern/ledger?of=r07"],
	[hit("number", "fabric-links#10.60.0.4/31"), "/f/tern/ledger?pool=fabric-links&number=10.60.0.4%2F31"],
	[hit("number", "asn#4200065007", ""), "/f/marlin/ledger?pool=asn&number=4200065007"],
	[hit("fabric", "tern", ""), "/f/tern/brief"],
])("what is found leads to where it is: %o", async (one, to) => {
	const { asked } = await search("seven", [one]);
	await userEvent.click(await screen.findByText(one.detail));
	await waitFor(() => expect(where()).toBe(to));
	expect(asked.at(-1)?.query.get("q")).toBe("seven");
	expect(screen.queryByRole("combobox")).toBeNull();
});

test("words that are typed fast are asked once", async () => {
	const { asked } = await search("leaf-r07b", [hit("switch", "leaf-r07b")]);
	await screen.findByText("switch detail");
	expect(asked.filter((one) => one.path === "/search").map((one) => one.query.get("q"))).toEqual([
		"leaf-r07b",
	]);
});

test("what is called by no such name is said, with what else to try", async () => {
	await search("zebra crossing");
	expect(await screen.findByText(/Nothing is called “zebra crossing”/)).toBeTruthy();
});

test("actions are found by their words; Enter does the first, and what a screen adds is among them", async () => {
	const { run } = await search("histo");
	await userEvent.keyboard("{Enter}");
	expect(run).toHaveBeenCalledOnce();
	await userEvent.keyboard("{Control>}k{/Control}");
	await userEvent.type(await screen.findByRole("combobox"), "open the ledger{Enter}");
	await waitFor(() => expect(where()).toBe("/f/marlin/ledger"));
});

test("outside a fabric nothing of a fabric is offered", async () => {
	await search("", [], {}, "");
	await screen.findByText("All fabrics");
	expect(screen.queryByText("Open the brief")).toBeNull();
	expect(screen.queryByText(/Download/)).toBeNull();
});

test("a download that is refused is told, and nothing is saved", async () => {
	const click = vi.spyOn(HTMLAnchorElement.prototype, "click");
	await search("cabling plan (csv)", [], {
		"GET /fabrics/marlin/cabling.csv": new Refusal(422, "No plan fits."),
	});
	await userEvent.keyboard("{Enter}");
	expect(await screen.findByText("No plan fits.")).toBeTruthy();
	expect(click).not.toHaveBeenCalled();
});

test("a download is saved under the name that the server gives", async () => {
	URL.createObjectURL = () => "blob:made";
	URL.revokeObjectURL = () => undefined;
	let name = "";
	vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(function (this: HTMLAnchorElement) {
		name = this.download;
	});
	const answer = new Response("a,b", {
		headers: { "Content-Disposition": 'attachment; filename="marlin-3.csv"' },
	});
	await search("cabling plan (csv){Enter}", [], { "GET /fabrics/marlin/cabling.csv": answer });
	await waitFor(() => expect(name).toBe("marlin-3.csv"));
});

test("the calls of this page are shown with their answers, so that any action can be scripted", async () => {
	await search("leaf", [hit("switch", "leaf-r07b")]);
	await screen.findByText("switch detail");
	await userEvent.clear(screen.getByRole("combobox"));
	await userEvent.click(screen.getByText("Show the API calls of this page"));
	const [newest] = within(screen.getByRole("dialog")).getAllByRole("listitem");
	expect(newest?.textContent).toBe("200 GET /api/v1/search?q=leaf");
});
