/** One switch of the roll: its box, who it was let in as, and what was done to it, command by command. */
import type { ReactNode } from "react";
import type { Fabric } from "../api/client";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { clock } from "../ui/words";
import { Errands } from "./errands";
import type { Line } from "./line";
import { type Deed, type Drain, type LogLine, type Staging, type SztpBox, useLog } from "./queries";
import { Sztp } from "./sztp";

interface Props {
	fabric: Fabric;
	line: Line | undefined;
	staging: Staging | null | undefined;
	drain: Drain | undefined;
	sztp: SztpBox | undefined;
	mayUnbox: boolean;
	mayStage: boolean;
	busy: boolean;
	onDo: (deed: Deed) => void;
	/** On a phone the switch has the whole window, and this leads back. */
	onBack?: () => void;
}

export function SwitchMargin(props: Props) {
	const { fabric, line, staging, mayUnbox, onDo, onBack } = props;
	const { data: log } = useLog(fabric, staging, line?.staged);
	if (onBack && !line) return null;
	if (!line)
		return (
			<Margin width={300}>
				<MarginHead kind="the roll call" title="Choose a switch" />
				<p className="text-soft">
					Its box, its steps, and every command that was run on it with what it answered are told here.
				</p>
			</Margin>
		);
	const { expected } = line;
	const of = `/api/v1/fabrics/${fabric.name}/staging`;
	return (
		<Margin width={onBack ? window.innerWidth : 300}>
			{onBack && (
				<button type="button" className="button-plain mb-2" onClick={onBack}>
					‹ the roll call
				</button>
			)}
			<MarginHead kind={`${line.rack}, unit ${line.unit}`} title={line.name} mono />
			{!props.drain && (
				<p className={`mb-3 ${line.staged?.state === "failed" ? "text-madder" : ""}`}>{line.now}</p>
			)}
			<Facts
				rows={[
					[
						"serial",
						<span key="serial" className="mono">
							{expected.serial || "not known yet"}
						</span>,
					],
					...(expected.mac
						? ([
								[
									"MAC",
									<span key="mac" className="mono">
										{expected.mac}
									</span>,
								],
							] as [string, ReactNode][])
						: []),
					["planned", `${line.model}, ${line.airflow}`],
					[
						"asks from",
						<span key="from" className="mono">
							{expected.address || "—"}
						</span>,
					],
					["last heard", expected.last_heard ? clock(expected.last_heard) : "never"],
				]}
			/>
			{expected.faults.map((one) => (
				<p key={one} className="mb-2 text-madder">
					{one}
				</p>
			))}
			<p className="mb-3 flex flex-wrap gap-x-4">
				{line.staged?.step === "handed over" && (
					<a className="text-indigo underline" href={`${of}/records/${line.name}/paper`} download>
						hand-over record
					</a>
				)}
				<a
					className="text-indigo underline"
					href={`${of}/byhand/${line.name}`}
					target="_blank"
					rel="noreferrer"
				>
					by hand
				</a>
			</p>
			{mayUnbox && line.box && !expected.admitted && (
				<button
					type="button"
					className="button-plain mb-3"
					onClick={() => onDo({ do: "loosen", switch: line.name })}
				>
					It is another box
				</button>
			)}
			<Errands
				key={line.name}
				fabric={fabric}
				line={line}
				drain={props.drain}
				may={props.mayStage}
				busy={props.busy}
				onDo={onDo}
			/>
			<Sztp key={`sztp ${line.name}`} fabric={fabric} line={line} box={props.sztp} may={props.mayStage} />
			{log && log.length > 0 && (
				<>
					<div className="label-small mb-1">What was done</div>
					<ol className="mono text-[11.5px] leading-relaxed">
						{log.map((one) => (
							<Said key={`${one.at}${one.words}${one.command}`} one={one} />
						))}
					</ol>
				</>
			)}
		</Margin>
	);
}

function Said({ one }: { one: LogLine }) {
	const output = one.output.trim();
	return (
		<li className="mb-0.5 break-words">
			<span className="text-soft">{clock(one.at)}</span>{" "}
			{one.command ? (
				<details className="inline">
					<summary className={`inline cursor-pointer ${one.code ? "text-madder" : ""}`}>
						{one.command}
						{one.code ? ` ended with ${one.code}` : ""}
					</summary>
					<pre className="max-h-60 overflow-auto border-l-2 border-hair pl-2 whitespace-pre-wrap">
						{output || "it said nothing"}
					</pre>
				</details>
			) : (
				one.words
			)}
		</li>
	);
}
