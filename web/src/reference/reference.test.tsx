/** Claims about the API's reference: every call with its types, and as one makes it oneself. */
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { said } from "../app/calls";
import { serve, show } from "../testing";
import { sample, typed } from "./document";
import { ReferenceScreen } from "./screen";

const DOCUMENT = {
	paths: {
		"/api/v1/fabrics/{name}/edits": {
			post: {
				operationId: "editFabric",
				tags: ["fabrics"],
				description: "Change fields.",
				"x-right": "edit",
				parameters: [{ name: "name", in: "path", required: true, schema: { type: "string" } }],
				requestBody: { content: { "application/json": { schema: { $ref: "#/components/schemas/Edits" } } } },
				responses: {
					"200": { content: { "application/json": { schema: { $ref: "#/components/schemas/Edits" } } } },
				},
			},
		},
		"/api/v1/health": { get: { operationId: "getHealth", tags: ["house"], responses: { "200": {} } } },
	},
	components: {
		schemas: {
			Edits: {
				type: "object",
				required: ["version", "kind"],
				properties: {
					version: { type: "integer" },
					kind: { enum: ["a", "b"] },
					note: { anyOf: [{ type: "string" }, { type: "null" }] },
					rows: { type: "array", items: { $ref: "#/components/schemas/Edits" } },
				},
			},
		},
	},
};
const EDITS = { $ref: "#/components/schemas/Edits" };

test("a call says what goes in, which right it needs, and how it is made from a shell and in Python", async () => {
	serve({});
	const fetched = globalThis.fetch;
	globalThis.fetch = async (input, init) =>
		String(input).endsWith("openapi.json") ? new Response(JSON.stringify(DOCUMENT)) : fetched(input, init);
	show(<ReferenceScreen />, "/reference", undefined, false);
	await userEvent.click(await screen.findByRole("button", { name: /edits/ }));
	const margin = within(screen.getByLabelText("Because"));
	expect(margin.getByText(/needs the right to edit/)).toBeTruthy();
	expect(margin.getAllByText(/kind: "a" \| "b"/, { selector: "pre" })).toHaveLength(2);
	expect(margin.getByText(/^curl -X POST/).textContent).toContain("Bearer $BARRIO_TOKEN");
	await userEvent.type(screen.getByLabelText("Find a call"), "health");
	expect(screen.getAllByRole("heading", { level: 2 }).map((one) => one.textContent)).toContain("house");
	expect(screen.queryByRole("button", { name: /edits/ })).toBeNull();
});

test("types and samples end, however a type holds itself", () => {
	expect(typed(DOCUMENT, EDITS, 1)).toContain("note?: string or nothing");
	expect(typed(DOCUMENT, EDITS, 1)).toContain("rows?: list of Edits");
	expect(sample(DOCUMENT, EDITS)).toEqual({ version: 1, kind: "a" });
});

test("what a shell or Python would take for its own is quoted", () => {
	const call = { method: "POST", url: "http://h/x?a=1&b=2", body: `{"note":"it's","on":true,"no":null}` };
	expect(said(call, "curl")).toContain(`--data '{"note":"it'\\''s","on":true,"no":null}'`);
	expect(said(call, "curl")).toContain("'http://h/x?a=1&b=2'");
	expect(said(call, "python")).toContain(`json={"note": "it's", "on": True, "no": None}`);
	expect(said({ ...call, body: "" }, "python")).not.toContain("json=");
});
