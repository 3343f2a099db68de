/** Because, for a line: its template and conditions, then the chain of each value, then where the same line stands. */
import { useState } from "react";
import { Link } from "react-router";
import { useLineReason, useReadBack } from "../api/queries";
import { Chain } from "../app/chain";
import { useOpenFabric } from "../app/open";
import { Margin, MarginHead } from "../ui/margin";
import { counted } from "../ui/words";

export function LineMargin({ target, file, line }: { target: string; file: string; line: number }) {
	const fabric = useOpenFabric();
	const { data, error } = useLineReason(fabric.name, fabric.version, target, file, line);
	return (
		<Margin width={316}>
			{error && <p className="text-soft">{error.message}</p>}
			{line === 0 && (
				<>
					<MarginHead kind="Because" title="Every line can say why it is here" />
					<p className="text-soft">
						Click a line, or step with <kbd>J</kbd> and <kbd>K</kbd>. The chain leads from the template,
						through the ledger and the hardware, to the words of the brief.
					</p>
					<ReadBack fabric={fabric.name} version={fabric.version} switches={fabric.sums.switches} />
				</>
			)}
			{line > 0 && data && (
				<>
					<MarginHead
						kind={`Line ${data.number} of ${file.split("/").at(-1)}`}
						title={data.text.trim() || "(an empty line)"}
						mono
					/>
					<div className="label-small mb-1.5">Because</div>
					<Chain steps={data.steps} />
					{data.values.map((value) => (
						<section key={value.path}>
							<div className="label-small mt-2 mb-1.5">
								Because · <span className="mono break-all">{value.text}</span>
							</div>
							<Chain steps={value.steps} />
						</section>
					))}
					{data.same_on.length > 0 && <SameOn fabric={fabric.name} file={file} names={data.same_on} />}
				</>
			)}
		</Margin>
	);
}

/** What an independent reader makes of all files together. */
function ReadBack({ fabric, version, switches }: { fabric: string; version: number; switches: number }) {
	// A thousand switches take half a minute, so that somebody has to ask for it.
	const [wanted, setWanted] = useState(switches <= 200);
	const { data, isFetching } = useReadBack(fabric, version, wanted);
	if (!wanted)
		return (
			<button type="button" className="button-plain mt-4" onClick={() => setWanted(true)}>
				Read all files back
			</button>
		);
	if (!data) return <p className="mt-4 text-soft">{isFetching && "All files are being read back…"}</p>;
	return (
		<section className="mt-4">
			<div className="label-small mb-1.5">Read back</div>
			{data.refused > 0 && (
				<p className="mb-1.5 text-madder">
					{counted(data.refused, "switch has", "switches have")} no files, and{" "}
					{data.refused === 1 ? "was" : "were"} not read.
				</p>
			)}
			{data.findings.length === 0 ? (
				<p className="text-soft">
					The files of {counted(data.switches, "switch", "switches")} agree with each other: both ends of
					every session and link, VLANs and VNIs, sizes, filters.
				</p>
			) : (
				<ul>
					{data.findings.map((finding) => (
						<li key={finding.message} className="mb-1.5 border-l-2 border-madder pl-2">
							{finding.message}
						</li>
					))}
				</ul>
			)}
		</section>
	);
}

function SameOn({ fabric, file, names }: { fabric: string; file: string; names: string[] }) {
	return (
		<>
			<div className="label-small mt-2 mb-1">
				The same line stands on {counted(names.length, "other switch", "other switches")}
			</div>
			<p className="mono leading-relaxed">
				{names.slice(0, 12).map((name) => (
					<Link
						key={name}
						className="mr-2 inline-block min-h-6 min-w-6 hover:text-indigo"
						to={`/f/${fabric}/configs/${name}?file=${file}`}
					>
						{name}
					</Link>
				))}
				{names.length > 12 && <span className="text-soft">and {names.length - 12} more</span>}
			</p>
		</>
	);
}
