/** Claims about deeds on their way: laid over what the server has, in the order in which they were done. */
import { expect, test } from "vitest";
import { type Deed, type Kind, withWaiting } from "./outbox";
import type { Worked } from "./queries";

const LABELS = new Map([
	["leaf/r07/b~spine/3~1", "M-0109"],
	["leaf/r07/b~spine/3~2", "M-0110"],
]);
const LINK = "leaf/r07/b~spine/3~1";

const deed = (kind: Kind, more: Partial<Deed> = {}): Deed => ({
	id: crypto.randomUUID(),
	cable: LINK,
	kind,
	done_at: "2026-11-20T09:00:00Z",
	text: "",
	...more,
});

const row = (more: Partial<Worked> = {}): Worked => ({
	label: "M-0109",
	link: LINK,
	laid_by: "",
	laid_at: null,
	measured: null,
	measured_by: "",
	scanned_a: "",
	scanned_b: "",
	light_a: null,
	light_b: null,
	fault: "",
	fault_by: "",
	wrong_label: null,
	...more,
});

const after = (rows: Worked[], ...deeds: Deed[]) => withWaiting(rows, deeds, LABELS).get(LINK);

test("a cable that nothing was done to begins with the deed, under its label", () => {
	expect(after([], deed("laid"))).toMatchObject({
		label: "M-0109",
		laid_by: "you",
		laid_at: "2026-11-20T09:00:00Z",
	});
});

test("what the server has of other cables stays as it is", () => {
	const other = row({ link: "leaf/r07/b~spine/3~2", label: "M-0110", measured: 4 });
	const found = withWaiting([other], [deed("laid")], LABELS);
	expect(found.get(other.link)).toBe(other);
	expect(found.size).toBe(2);
});

test("a cable that is taken out has no labels any more, and keeps the length that was measured", () => {
	const was = row({ laid_at: "2026-11-19T09:00:00Z", laid_by: "Luz", measured: 12.6, scanned_a: "M-0109" });
	expect(after([was], deed("taken out"))).toMatchObject({
		laid_at: null,
		laid_by: "",
		scanned_a: "",
		measured: 12.6,
	});
});

test("a label is read by its first word, and another cable's is told with its end", () => {
	expect(after([], deed("scanned a", { text: "M-0109 | r07.U41 leaf-r07b:u5" }))?.wrong_label).toBeNull();
	expect(after([], deed("scanned b", { text: "M-0110 | s01.U39" }))?.wrong_label).toBe("end B bears M-0110");
});

test("light counts for its end, and a measured length for the cable", () => {
	const found = after([], deed("light b", { number: -2.1 }), deed("measured", { number: 11.2 }));
	expect(found).toMatchObject({ light_a: null, light_b: -2.1, measured: 11.2, measured_by: "you" });
});

test("a fault stands until it is mended, and the later deed goes over the earlier", () => {
	expect(after([], deed("fault", { text: "latch broken" }))?.fault).toBe("latch broken");
	expect(after([], deed("fault", { text: "latch broken" }), deed("mended"))?.fault).toBe("");
	expect(after([row({ fault: "bent" })], deed("mended"), deed("fault", { text: "cut" }))?.fault).toBe("cut");
});
