/** Claims about what is offered while a template is typed: just what can stand there. */
import { expect, test } from "vitest";
import { following, loopsAt } from "./completing";
import type { Words } from "./queries";

const said = (path: string, of = "sw") => ({ path, of, kind: "word", words: "" });
const WORDS: Words = {
	filters: {},
	paths: [
		said("sw.name"),
		said("sw.pair"),
		said("sw.pair.mac"),
		said("sw.vrfs"),
		said("sw.fabric_ports"),
		said("port.label", "sw.fabric_ports"),
		said("port.v4", "sw.fabric_ports"),
		said("vrf.label", "sw.vrfs"),
		said("vrf.imports", "sw.vrfs"),
		said("one.prefix", "vrf.imports"),
	],
};
const offered = (word: string, before = "") => following(word, before, WORDS).map((one) => one.label);

test("only the loops that are open count, the innermost last", () => {
	const text = "{% for a in sw.vrfs %}{% for b in a.imports %}{% endfor %}{% for c in sw.vrfs %}";
	expect([...loopsAt(text)]).toEqual([
		["a", "sw.vrfs"],
		["c", "sw.vrfs"],
	]);
});

test("a word without a dot is the switch or what a loop runs over", () => {
	expect(offered("s")).toEqual(["sw", "vars"]);
	expect(offered("p", "{% for p in sw.fabric_ports %}{{ ")).toEqual(["sw", "vars", "p"]);
});

test("after a dot stand the parts of what is before it, and no deeper ones", () => {
	expect(offered("sw.")).toEqual(["name", "pair", "vrfs", "fabric_ports"]);
	expect(offered("sw.pair.m")).toEqual(["mac"]);
	expect(offered("nothing.")).toEqual([]);
});

test("a loop's variable has the parts of its list, whatever it is called, and through two loops", () => {
	expect(offered("link.", "{% for link in sw.fabric_ports %}")).toEqual(["label", "v4"]);
	const inner = "{% for v in sw.vrfs %}{% for taken in v.imports %}";
	expect(offered("taken.", inner)).toEqual(["prefix"]);
});
