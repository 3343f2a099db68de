/** The margin of the grid: what is at the row, what the cell is, and which words of the brief make it so. */
import type { Fabric, Failure } from "../api/client";
import { Refusal } from "../app/refusal";
import { FIRST, markOf, type Place } from "./cells";
import type { Column, Row } from "./queries";

interface Props {
	fabric: Fabric;
	row: Row | undefined;
	column: Column | undefined;
	columns: Column[];
	at: Place;
	/** Why the last change could not be. */
	failure: Failure | null;
	onSieve: (sieve: Record<string, string>) => void;
}

export function SegmentsMargin({ fabric, row, column, columns, at, failure, onSieve }: Props) {
	if (!row)
		return (
			<aside
				aria-label="Because"
				className="w-[272px] flex-none border-l border-hair bg-raised p-5 text-soft"
			>
				Choose a port to see who is at it, and why it carries what it does.
			</aside>
		);
	const host = row.entry ? fabric.brief.hosts?.[row.entry] : undefined;
	const plug = row.plug ? fabric.brief.plugs?.[row.plug] : undefined;
	const own = Object.entries(host ?? {})
		.filter(([field, value]) => !["at", "plug", "team", "note"].includes(field) && value !== null)
		.map(([field]) => field);
	return (
		<aside
			aria-label="Because"
			className="w-[272px] flex-none overflow-y-auto border-l border-hair bg-raised p-5"
		>
			{failure && <Refusal failure={failure} />}
			<p className="text-[11.8px] text-soft">Port</p>
			<h2 className="mb-3 text-[15px] font-bold">
				{row.leaf} {row.ports}
			</h2>
			<dl className="mb-3 grid grid-cols-[76px_1fr] gap-y-1 [&>dt]:text-soft">
				<dt>Host</dt>
				<dd className="mono">
					{row.host || <span className="font-sans text-soft">{row.locked || "none"}</span>}
				</dd>
				{row.team && (
					<>
						<dt>Team</dt>
						<dd>
							<button type="button" className="button-plain" onClick={() => onSieve({ team: row.team })}>
								{row.team}
							</button>
						</dd>
					</>
				)}
				{row.host && (
					<>
						<dt>Plug</dt>
						<dd>{row.plug || "none; it says all itself"}</dd>
						<dt>LAG</dt>
						<dd>{LAGS[row.lag] ?? row.lag}</dd>
					</>
				)}
				<dt>Untagged</dt>
				<dd>{row.untagged === null ? "nothing" : columns[row.untagged]?.name}</dd>
				<dt>Tagged</dt>
				<dd>{row.tagged.map((one) => columns[one]?.name).join(", ") || "nothing"}</dd>
				<dt>VNIs</dt>
				<dd>
					{row.vnis} on {row.leaf}, whose tables hold {row.most_vnis.toLocaleString("en")}
				</dd>
			</dl>
			<p className="text-[11.8px] text-soft">Because</p>
			<div className="space-y-2">
				{row.locked && <p>This port is {row.locked}. No host can be attached to it.</p>}
				{!row.locked && !row.host && (
					<p>
						{row.shut
							? `It is shut: ${row.shut}. Type a name in the host's column to attach one.`
							: `Ports without a host carry what ${row.plug} says.`}
					</p>
				)}
				{row.host && (
					<p>
						The brief names <span className="mono">{row.entry}</span> at {[host?.at].flat().join(", ")}
						{row.plug && (
							<>
								, by plug <b className="font-[560]">{row.plug}</b>
								{plug?.note && ` (${plug.note})`}
							</>
						)}
						.
					</p>
				)}
				{own.length > 0 && row.plug && (
					<p>
						It says its own {own.join(", ")}, in place of the plug's: an exception that only{" "}
						{row.entry.includes("..") || row.entry.includes(",") ? "these hosts have" : "this host has"}.
					</p>
				)}
				{row.host && row.shut && <p className="text-madder">It is shut: {row.shut}.</p>}
			</div>
			{column && at.column >= FIRST && (
				<div className="mt-4 border-t border-hair pt-3">
					<p className="text-[11.8px] text-soft">Segment</p>
					<h3 className="mb-1 font-bold">{column.name}</h3>
					<p>
						{row.locked
							? "Not for this port"
							: { tagged: "Tagged here", untagged: "Untagged here", "": "Not here" }[
									markOf(row, at.column - FIRST)
								]}
						. VLAN <span className="mono">{column.vlan ?? row.vlans[column.name] ?? "by rack"}</span>, VNI{" "}
						<span className="mono">{column.vni}</span>,{" "}
						{column.vrf ? `routed in ${column.vrf}` : "not routed"}; {column.hosts} hosts carry it
						{column.state === "active" ? "" : `, and it is ${column.state}`}.
					</p>
					<button
						type="button"
						className="button-plain mt-1"
						onClick={() => onSieve({ segment: column.name })}
					>
						Where is {column.name}?
					</button>
				</div>
			)}
		</aside>
	);
}

const LAGS: Record<string, string> = { none: "none", lacp: "LACP", static: "without LACP" };
