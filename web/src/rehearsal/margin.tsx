/** The margin of a rehearsal: of a claim, what was asked, what was answered, and why it was expected; else what the rehearsal is. */
import type { Fabric } from "../api/client";
import { useBecause } from "../api/queries";
import { Chain } from "../app/chain";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { clock, counted, day } from "../ui/words";
import { type Claim, type Drill, isRunning, type Rehearsal } from "./queries";
import { longest } from "./score";

export function ClaimMargin({ fabric, claim }: { fabric: Fabric; claim: Claim }) {
	const { data: because } = useBecause(
		fabric.name,
		fabric.version,
		claim.because ? { path: claim.because } : null,
	);
	return (
		<Margin width={300}>
			<MarginHead kind={claim.holds ? "it holds" : "it does not hold"} title={claim.words} />
			<Facts
				rows={[
					["look at", claim.about || "the fabric"],
					["expected", claim.expected || "so"],
					[
						"found",
						<span className={claim.holds ? "" : "text-madder"} key="found">
							{claim.found}
						</span>,
					],
				]}
			/>
			{claim.command && (
				<>
					<div className="label-small">Asked there</div>
					<code className="mono mb-2 block break-words">{claim.command}</code>
				</>
			)}
			{claim.said && (
				<>
					<div className="label-small">It said</div>
					<pre className="mono mb-3 border-l-4 border-hair pl-2.5 whitespace-pre-wrap">{claim.said}</pre>
				</>
			)}
			{because && because.steps.length > 0 && (
				<>
					<div className="label-small mt-2">Because</div>
					<Chain steps={because.steps} />
				</>
			)}
		</Margin>
	);
}

/** What the daemons said around a moment of a drill, and what was foretold and found. */
export function DrillMargin({ drill, moment }: { drill: Drill; moment: number | null }) {
	const at = moment ?? drill.at;
	const said = drill.said.filter((one) => one.at > at - 0.6 && one.at < at + 1.2);
	const agree = drill.left.filter((one) => one.paths === one.found).length;
	const least = drill.left.reduce(
		(low, one) => Math.min(low, one.of_paths ? one.found / one.of_paths : 1),
		1,
	);
	const foretold = drill.left.reduce(
		(low, one) => Math.min(low, one.of_paths ? one.paths / one.of_paths : 1),
		1,
	);
	return (
		<Margin width={300}>
			<MarginHead
				kind={`at ${at.toFixed(2)} s`}
				title={drill.faults.length === 0 ? "As foretold" : "Not as foretold"}
			/>
			<table className="mb-3 w-full">
				<thead>
					<tr className="label-small text-left">
						<th className="font-normal">foretold and found</th>
						<th className="font-normal">said</th>
						<th className="font-normal">was</th>
					</tr>
				</thead>
				<tbody>
					{drill.waves.length > 0 ? (
						<Pair
							term="sessions that restart"
							said={String(drill.told)}
							was={String(drill.restarted.length)}
						/>
					) : (
						<Pair
							term="least paths left"
							said={`${Math.round(foretold * 100)} %`}
							was={`${Math.round(least * 100)} %`}
						/>
					)}
					<Pair
						term="longest silence"
						said={`${Math.max(...drill.flows.map((one) => one.most), 0).toFixed(1)} s`}
						was={`${longest(drill).toFixed(2)} s`}
					/>
					{drill.left.length > 0 && (
						<Pair term="pairs of leaves" said={String(drill.left.length)} was={`${agree} agree`} />
					)}
				</tbody>
			</table>
			{drill.waves.length > 0 && (
				<>
					<div className="label-small">Waves</div>
					<ol className="mb-3" aria-label="Waves">
						{drill.waves.map((wave) => (
							<li key={wave.number} className={wave.settled ? "" : "text-madder"}>
								{wave.number}: {wave.switches.join(", ")},{" "}
								{wave.settled
									? `stood after ${(wave.until - wave.at).toFixed(0)} s`
									: "did not stand in time"}
							</li>
						))}
					</ol>
				</>
			)}
			<div className="label-small">The daemons, around this moment</div>
			<ol className="mono mt-0.5 border-l-4 border-hair pl-2.5">
				{said.map((one) => (
					<li key={`${one.at} ${one.who} ${one.words}`} className="mb-1 break-words">
						<span className="text-soft">
							{one.at.toFixed(2)} {one.who}
						</span>{" "}
						{one.words}
					</li>
				))}
				{!said.length && <li className="text-soft">nothing</li>}
			</ol>
		</Margin>
	);
}

function Pair({ term, said, was }: { term: string; said: string; was: string }) {
	return (
		<tr className="border-t border-hair/60">
			<td className="py-[3px] text-soft">{term}</td>
			<td>{said}</td>
			<td className={said === was ? "text-soft" : ""}>{was}</td>
		</tr>
	);
}

interface Props {
	fabric: string;
	one: Rehearsal;
	mayStop: boolean;
	onStop: () => void;
}

export function RehearsalMargin({ fabric, one, mayStop, onStop }: Props) {
	return (
		<Margin width={300}>
			<MarginHead
				kind={`asked for by ${one.author}, ${day(one.asked_at)}, ${clock(one.asked_at)}`}
				title={
					one.change
						? `Edition ${one.edition}, and the draft, version ${one.version}, put on it`
						: one.edition
							? `Edition ${one.edition}`
							: `The draft, version ${one.version}`
				}
			/>
			<Facts
				rows={[
					[
						"booted",
						one.switches.length
							? `${counted(one.switches.length, "switch", "switches")}${one.whole ? ", the whole fabric" : ", a slice"}`
							: "nothing yet",
					],
					["on", one.ground || "not decided yet"],
					[
						"played",
						[
							one.of_hosts ? `${one.hosts} of ${counted(one.of_hosts, "host")}` : "no host",
							...one.outside,
						].join(", "),
					],
					["up in", one.booted ? `${one.booted.toFixed(0)} s` : "not yet"],
					["in all", one.seconds ? `${one.seconds.toFixed(0)} s` : "under way"],
				]}
			/>
			{isRunning(one) && mayStop && (
				<button type="button" className="button-plain" onClick={onStop}>
					Stop it
				</button>
			)}
			{(one.state === "failed" || one.state === "stopped") && (
				<p className={one.state === "failed" ? "text-madder" : "text-soft"}>{one.words}</p>
			)}
			{one.state === "done" && (
				<p className="flex gap-4">
					<a
						className="button-plain"
						href={`/api/v1/fabrics/${fabric}/rehearsals/${one.job}/report.html`}
						download
					>
						Report
					</a>
					<a
						className="button-plain"
						href={`/api/v1/fabrics/${fabric}/rehearsals/${one.job}/report.pdf`}
						download
					>
						On paper (PDF)
					</a>
				</p>
			)}
			<Told title="Not here" lines={one.left_out} />
			<Told title="Not proven" lines={one.cannot} />
			<Told title="Of the files, not run here" lines={one.not_run} />
		</Margin>
	);
}

function Told({ title, lines }: { title: string; lines: readonly string[] }) {
	if (!lines.length) return null;
	return (
		<>
			<div className="label-small mt-4">{title}</div>
			<ul className="mt-0.5">
				{lines.slice(0, 12).map((words) => (
					<li key={words} className="mb-1 leading-snug break-words">
						{words}
					</li>
				))}
				{lines.length > 12 && <li className="text-soft">and {lines.length - 12} more</li>}
			</ul>
		</>
	);
}
