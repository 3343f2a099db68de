/** The sentences about routing: underlay, overlay, ASNs, failure detection. */
import type { Brief } from "../../api/client";
import { whole } from "./parse";
import { Word } from "./word";

const ADDRESSING = [
	{ value: "ipv4", label: "IPv4 /31" },
	{ value: "ipv6", label: "IPv6 /127" },
	{ value: "dual", label: "/31 and /127" },
	{ value: "unnumbered", label: "unnumbered" },
];
const PROTOCOLS = [
	{ value: "ebgp", label: "eBGP" },
	{ value: "ospf", label: "OSPF" },
	{ value: "isis", label: "IS-IS" },
];
const ASNS = [
	{ value: "per-leaf", label: "leaf has its own" },
	{ value: "per-pair", label: "pair shares one" },
	{ value: "per-rack", label: "rack shares one" },
];
const label = (choices: { value: string; label: string }[], value: string) =>
	choices.find((one) => one.value === value)?.label ?? value;

export function Routing({ brief, all }: { brief: Brief; all: boolean }) {
	const { protocol, addressing, asn, bfd, timers, mtu, hello, max_paths, graceful_restart } = brief.underlay;
	const ebgp = protocol === "ebgp";
	return (
		<p>
			<ProtocolWord brief={brief} /> underlay over{" "}
			<Word
				path="underlay.addressing"
				value={addressing}
				say={(value) => `${value} links`}
				choices={ADDRESSING}
			>
				{label(ADDRESSING, addressing)}
			</Word>{" "}
			links, EVPN <OverlayWord brief={brief} />.{" "}
			{ebgp ? (
				<>
					Spines {brief.pods ? "of a pod " : ""}share one ASN; each{" "}
					<Word path="underlay.asn" value={asn} say={(value) => `ASNs ${value}`} choices={ASNS}>
						{label(ASNS, asn)}
					</Word>
					.{" "}
				</>
			) : (
				<>
					All of it is one AS. Hello every{" "}
					<Word path="underlay.hello" value={hello} say={(value) => `hello every ${value} s`} parse={whole}>
						{hello} s
					</Word>
					.{" "}
				</>
			)}
			BFD{" "}
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
			{(all || max_paths) && (
				<>
					{" "}
					ECMP over{" "}
					<Word
						path="underlay.max_paths"
						value={max_paths ?? ""}
						say={(value) => `ECMP over ${value ?? "all"} paths`}
						parse={(text) => (text.trim() ? whole(text) : null)}
					>
						{max_paths ?? "all"}
					</Word>{" "}
					paths.
				</>
			)}
			{(all || graceful_restart) && (
				<>
					{" "}
					Graceful restart{" "}
					<Word
						path="underlay.graceful_restart"
						value={graceful_restart}
						say={(value) => `graceful restart ${value ? "on" : "off"}`}
						choices={[
							{ value: true, label: "on" },
							{ value: false, label: "off" },
						]}
					>
						{graceful_restart ? "on" : "off"}
					</Word>
					.
				</>
			)}
			<Edge brief={brief} all={all} />
		</p>
	);
}

/** What guards sessions and host ports; at its defaults it stays out of the way. */
function Edge({ brief, all }: { brief: Brief; all: boolean }) {
	const { ttl_security } = brief.underlay;
	const { storm, startup_delay } = brief.overlay;
	return (
		<>
			{brief.underlay.protocol === "ebgp" && (all || ttl_security) && (
				<>
					{" "}
					BGP packets are taken{" "}
					<Word
						path="underlay.ttl_security"
						value={ttl_security}
						say={(value) => `TTL security ${value ? "on" : "off"}`}
						choices={[
							{ value: false, label: "from any distance" },
							{ value: true, label: "from the end of the cable only" },
						]}
					>
						{ttl_security ? "from the end of the cable only" : "from any distance"}
					</Word>
					.
				</>
			)}
			{(all || storm !== 2000) && (
				<>
					{" "}
					A host port takes{" "}
					<Word
						path="overlay.storm"
						value={storm}
						say={(value) => `${value} broadcasts a second`}
						parse={whole}
					>
						{storm === 0 ? "all" : storm.toLocaleString("en")}
					</Word>{" "}
					broadcasts a second.
				</>
			)}
			{(all || startup_delay !== 60) && (
				<>
					{" "}
					A leaf that starts serves shared hosts after{" "}
					<Word
						path="overlay.startup_delay"
						value={startup_delay}
						say={(value) => `shared hosts after ${value} s`}
						parse={whole}
					>
						{startup_delay} s
					</Word>
					.
				</>
			)}
		</>
	);
}

/** The underlay's protocol. An IGP needs iBGP above it, so the two change together. */
function ProtocolWord({ brief }: { brief: Brief }) {
	const { protocol } = brief.underlay;
	return (
		<Word
			path="underlay.protocol"
			value={protocol}
			say={(value) => `${label(PROTOCOLS, String(value))} underlay`}
			choices={PROTOCOLS}
			also={(value) => (value === "ebgp" ? [] : [["overlay.protocol", "ibgp"]])}
		>
			{label(PROTOCOLS, protocol)}
		</Word>
	);
}

function OverlayWord({ brief }: { brief: Brief }) {
	const { protocol, reflectors } = brief.overlay;
	return (
		<>
			<Word
				path="overlay.protocol"
				value={protocol}
				say={(value) => (value === "ebgp" ? "EVPN over eBGP" : "EVPN by reflectors")}
				choices={[
					{ value: "ebgp", label: "over the same sessions" },
					{ value: "ibgp", label: "over iBGP by reflectors" },
				]}
			>
				{protocol === "ebgp" ? "over the same sessions" : "over iBGP"}
			</Word>
			{protocol === "ibgp" && (
				<>
					{" "}
					by{" "}
					<Word
						path="overlay.reflectors"
						value={reflectors}
						say={(value) => `${value} reflectors`}
						parse={whole}
						choices={[1, 2, 3, 4].map((value) => ({ value, label: `${value} reflectors` }))}
					/>{" "}
					reflectors
				</>
			)}
		</>
	);
}
