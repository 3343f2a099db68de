/** Claims about what is offered to whom. */
import { screen } from "@testing-library/react";
import { expect, test } from "vitest";
import { serve, show, somebody } from "../testing";
import { MayOnly, Settled, WhoMay } from "./only";

const part = (
	<>
		<WhoMay />
		<Settled>
			<button type="button">a word</button>
		</Settled>
		<MayOnly right="number">
			<button type="button">Pin it</button>
		</MayOnly>
	</>
);
const HOLDERS = [
	{ right: "edit", words: "change the brief of marlin", who: ["Ines", "Teo", "Per", "Nadia"] },
];

test("to whom may, words are controls; to whom may not they are words, and it is said who could", async () => {
	serve({ "GET /fabrics/marlin/holders": HOLDERS });
	show(part, undefined, undefined, true, somebody(["read", "look"]));
	expect(
		await screen.findByText("Ines, Teo, Per and 1 more may change the brief of marlin; you look on."),
	).toBeTruthy();
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "a word" }).matches(":disabled")).toBe(true);
	expect(screen.queryByRole("button", { name: "Pin it" })).toBeNull();
});

test("a right over another fabric is none over this one", () => {
	serve({ "GET /fabrics/marlin/holders": [] });
	show(part, undefined, undefined, true, somebody(["read", "edit", "number"], ["tern"]));
	expect(screen.getByRole("button", { name: "a word" }).matches(":disabled")).toBe(true);
	expect(screen.queryByRole("button", { name: "Pin it" })).toBeNull();
});

test("whoever may is bothered with nothing", () => {
	serve({});
	show(part, undefined, undefined, true, somebody(["edit", "number"], ["marlin"]));
	expect(screen.getByRole("button", { name: "a word" }).matches(":disabled")).toBe(false);
	expect(screen.getByRole("button", { name: "Pin it" })).toBeTruthy();
	expect(screen.queryByText(/you look on/)).toBeNull();
});
