/** The brief as prose: everything it can say has its sentence, and the words are controls. */
import { useCallback, useState } from "react";
import type { Brief } from "../api/client";
import { useKey } from "../ui/keys";
import { useOpenFabric } from "../ui/street";
import { whole } from "./parse";
import { Segments } from "./segments";
import { Access, Cables, Numbers } from "./sentences";
import { Shape } from "./shape";
import { Word } from "./word";

export function Prose() {
	const { brief } = useOpenFabric();
	const [all, setAll] = useState(false);
	useKey("e", stepWords);
	useKey(
		"a",
		useCallback(() => setAll((was) => !was), []),
	);
	return (
		<>
			<h1 className="mb-2 text-[17px] leading-tight font-bold tracking-tight">
				<Word
					path="title"
					value={brief.title}
					say={(value) => `title “${value}”`}
					parse={(text) => text.trim() || null}
				>
					{brief.title || brief.fabric}
				</Word>
			</h1>
			<Part title="Shape">
				<Shape brief={brief} all={all} />
			</Part>
			<Part title="Routing">
				<Routing brief={brief} all={all} />
			</Part>
			<Part title="Carries">
				<Segments brief={brief} all={all} />
			</Part>
			<Part title="Access and services">
				<Access brief={brief} all={all} />
			</Part>
			<Part title="Numbers">
				<Numbers brief={brief} />
			</Part>
			<Part title="Cables">
				<Cables brief={brief} />
			</Part>
			<p className="mt-4 pb-5 text-soft">
				<kbd>E</kbd> next word &nbsp;<kbd>T</kbd> as text &nbsp;<kbd>A</kbd>{" "}
				{all ? "fewer words" : "every word"}
			</p>
		</>
	);
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
	return (
		<section className="mb-3">
			<h2 className="mt-3.5 mb-0.5 text-[11px] font-semibold tracking-wide text-soft">{title}</h2>
			<div className="leading-[1.62]">{children}</div>
		</section>
	);
}

function stepWords(event: KeyboardEvent) {
	event.preventDefault();
	const words = [...document.querySelectorAll<HTMLElement>("[data-word]")];
	const at = words.indexOf(document.activeElement as HTMLElement);
	words[(at + 1) % words.length]?.focus();
}

const ADDRESSING = [
	{ value: "ipv4", label: "IPv4 /31" },
	{ value: "ipv6", label: "IPv6 /127" },
	{ value: "dual", label: "/31 and /127" },
	{ value: "unnumbered", label: "unnumbered" },
];

function Routing({ brief, all }: { brief: Brief; all: boolean }) {
	const { addressing, asn, bfd, timers, mtu } = brief.underlay;
	const over = ADDRESSING.find((one) => one.value === addressing)?.label ?? addressing;
	return (
		<p>
			eBGP underlay over{" "}
			<Word
				path="underlay.addressing"
				value={addressing}
				say={(value) => `${value} links`}
				choices={ADDRESSING}
			>
				{over}
			</Word>{" "}
			links, EVPN over the same sessions. Spines share one ASN; each{" "}
			<Word
				path="underlay.asn"
				value={asn}
				say={(value) => `ASNs ${value}`}
				choices={[
					{ value: "per-leaf", label: "leaf has its own" },
					{ value: "per-pair", label: "pair shares one" },
				]}
			>
				{asn === "per-leaf" ? "leaf has its own" : "pair shares one"}
			</Word>
			. BFD{" "}
			<Word
				path="underlay.bfd.interval"
				value={bfd.interval}
				say={(value) => `BFD every ${value} ms`}
				parse={whole}
			>
				{bfd.interval} ms
			</Word>{" "}
			×{" "}
			<Word
				path="underlay.bfd.multiplier"
				value={bfd.multiplier}
				say={(value) => `BFD × ${value}`}
				parse={whole}
			/>
			. MTU <Word path="underlay.mtu" value={mtu} say={(value) => `MTU ${value}`} parse={whole} />.
			{(all || timers.keepalive !== 3 || timers.hold !== 9) && (
				<>
					{" "}
					BGP keepalive{" "}
					<Word
						path="underlay.timers.keepalive"
						value={timers.keepalive}
						say={(value) => `keepalive ${value} s`}
						parse={whole}
					>
						{timers.keepalive} s
					</Word>
					, hold{" "}
					<Word
						path="underlay.timers.hold"
						value={timers.hold}
						say={(value) => `hold time ${value} s`}
						parse={whole}
					>
						{timers.hold} s
					</Word>
					.
				</>
			)}
		</p>
	);
}
