/** Claims about the shape in a line: words are offered, what is wrong is pointed at, and what a line cannot say stays. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, MARLIN, Refusal, serve, show } from "../../testing";
import { InALine } from "./line";

const SAID: Record<string, { words: string[]; wrong: string; column: number }> = {
	"4 sp": { words: ["spines", "spread"], wrong: "", column: 0 },
	"4 spines ": { words: [",", "cantera-c64"], wrong: "", column: 0 },
	"4 spines, 12 reaks": { words: [], wrong: "reaks is no word of a line; racks is.", column: 14 },
};

async function saying(change: unknown = MARLIN, fabric = MARLIN) {
	const asked = serve({
		"POST /quickline/complete": ({ body }: Asked) => ({
			words: [],
			wrong: "",
			column: 0,
			sums: null,
			text: "",
			...SAID[(body as { line: string }).line],
		}),
		"POST /fabrics/marlin/quickline": change,
	});
	show(<InALine />, "/f/marlin/brief", fabric);
	await userEvent.click(screen.getByRole("button", { name: "Say it in a line" }));
	const field = screen.getByLabelText<HTMLTextAreaElement>("The fabric in a line");
	return { asked, field };
}
const retype = async (field: HTMLTextAreaElement, text: string) => {
	await userEvent.clear(field);
	await userEvent.type(field, text);
};

test("it begins with the line of the fabric as it is, without its name, and cannot be taken unchanged", async () => {
	const { field } = await saying();
	expect(MARLIN.line).toBe(`${MARLIN.name}: ${field.value}`);
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Make it so" }).disabled).toBe(true);
	await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
	expect(screen.getByRole("button", { name: "Say it in a line" })).toBeTruthy();
});

test("Tab takes the first word offered for one that is begun; a word or a comma is taken by a click", async () => {
	const { field } = await saying();
	await retype(field, "4 sp");
	await screen.findByRole("button", { name: "spread" });
	await userEvent.keyboard("{Tab}");
	expect(field.value).toBe("4 spines ");
	await userEvent.click(await screen.findByRole("button", { name: "," }));
	expect(field.value).toBe("4 spines, ");
	expect(document.activeElement).toBe(field);
	await userEvent.keyboard("{Tab}");
	expect(field.value).toBe("4 spines, ");
	expect(document.activeElement).not.toBe(field);
});

test("what is wrong is said, and a click marks the word that is meant", async () => {
	const { field } = await saying();
	await retype(field, "4 spines, 12 reaks");
	await userEvent.click(await screen.findByText("reaks is no word of a line; racks is."));
	expect(field.value.slice(field.selectionStart, field.selectionEnd)).toBe("reaks");
});

test("Enter makes it so at the version that was seen, and the field closes", async () => {
	const { asked, field } = await saying();
	await retype(field, "8 spines{Enter}");
	await waitFor(() => expect(screen.getByRole("button", { name: "Say it in a line" })).toBeTruthy());
	const change = asked.find((one) => one.path === "/fabrics/marlin/quickline");
	expect(change?.body).toMatchObject({ line: "8 spines", version: MARLIN.version });
});

test("a refusal stays beside the line, and what a line does not speak of is said to stay", async () => {
	const refusal = new Refusal(422, "8 spines need 8 uplinks of each leaf.");
	const { field } = await saying(refusal, { ...MARLIN, beyond_line: ["out_of_service", "services.ntp"] });
	expect(screen.getByText("A line does not speak of out of service, services ntp: they stay.")).toBeTruthy();
	await retype(field, "8 spines{Enter}");
	expect(await screen.findByText("8 spines need 8 uplinks of each leaf.")).toBeTruthy();
	expect(field.value).toBe("8 spines");
});
