import { assert, test } from "vitest";
import {
	blocksOf,
	commonGroups,
	marksOf,
	markText,
	panned,
	parseText,
	placeOf,
	type Span,
	sizeOf,
	spanOf,
	spanText,
	stemText,
	textOf,
	within,
	zoomed,
} from "./span";

const v4 = (text: string) => parseText("v4", text) ?? 0n;
const v6 = (text: string) => parseText("v6", text) ?? 0n;

test("addresses are read as they are written, in both families", () => {
	for (const text of ["0.0.0.0", "10.61.2.52", "255.255.255.255"])
		assert.strictEqual(textOf("v4", v4(text)), text);
	for (const text of [
		"::",
		"::1",
		"fd60::11",
		"fd61:0:2::",
		"fe80::1:0:0:1",
		"1:2:3:4:5:6:7:8",
		"2001:db8:0:1:1:1:1:1",
	])
		assert.strictEqual(textOf("v6", v6(text)), text);
	assert.strictEqual(parseText("v4", "10.60.0.0/22"), v4("10.60.0.0"));
	assert.strictEqual(parseText("v6", "no address"), null);
	assert.strictEqual(parseText("number", "4200065007"), 4200065007n);
});

test("a span reads as a prefix when it is one, and falls into prefixes otherwise", () => {
	assert.strictEqual(spanText("v4", { low: v4("10.60.0.0"), high: v4("10.60.3.255") }), "10.60.0.0/22");
	assert.strictEqual(spanText("v4", { low: v4("10.60.0.4"), high: v4("10.60.0.9") }), "10.60.0.4..10.60.0.9");
	assert.strictEqual(spanText("number", { low: 5n, high: 9n }), "5..9");
	const odd: Span = { low: v4("10.0.0.3"), high: v4("10.0.0.12") };
	assert.deepEqual(
		blocksOf(odd).map((block) => Number(block.size)),
		[1, 4, 4, 1],
	);
	assert.strictEqual(
		blocksOf(odd).reduce((sum, block) => sum + block.size, 0n),
		sizeOf(odd),
	);
});

test("zooming in and out around a place keeps the place, and never leaves the whole", () => {
	const whole: Span = { low: v6("fd60::"), high: v6("fd60::ffff:ffff:ffff:ffff") };
	let window = whole;
	const at = 0.3;
	for (let step = 0; step < 40; step++) {
		const before = window.low + (sizeOf(window) * 3n) / 10n;
		window = zoomed(window, whole, "in", at);
		const drift = before - (window.low + (sizeOf(window) * 3n) / 10n);
		assert.ok(drift * drift <= (sizeOf(window) / 1000n + 2n) ** 2n);
	}
	assert.ok(sizeOf(window) < 1n << 25n);
	for (let step = 0; step < 80; step++) window = zoomed(window, whole, "out", at);
	assert.deepEqual(window, whole);
	const small: Span = { low: whole.low, high: whole.low + 15n };
	assert.deepEqual(panned(small, whole, -3), small);
	assert.deepEqual(within({ low: whole.high - 3n, high: whole.high + 12n }, whole), {
		low: whole.high - 15n,
		high: whole.high,
	});
});

test("a dragged span snaps to round numbers inside the window", () => {
	const window: Span = { low: v4("10.72.0.0"), high: v4("10.72.255.255") };
	const span = spanOf(0.5, 0.25, window, 950);
	assert.strictEqual(textOf("v4", span.low), "10.72.64.0");
	assert.strictEqual((span.high + 1n) % 256n, 0n);
	assert.ok(span.low >= window.low && span.high <= window.high);
});

test("the axis says each mark once and leaves out what all have in common", () => {
	const window: Span = { low: v6("fd72::"), high: v6("fd72:0:0:9:ffff:ffff:ffff:ffff") };
	const common = commonGroups("v6", window);
	assert.strictEqual(common, 3);
	assert.strictEqual(stemText(window, common), "fd72::");
	const marks = marksOf("v6", window, 8).map((at) => markText("v6", at, common));
	assert.deepEqual(marks, ["0", "2", "4", "6", "8"]);
	const numbers = marksOf("number", { low: 64512n, high: 65534n }, 9);
	assert.ok(numbers.length <= 9 && numbers.every((at) => at % 100n === 0n));
	assert.ok(numbers.every((at, index) => index === 0 || placeOf(at, { low: 64512n, high: 65534n }) > 0));
});
