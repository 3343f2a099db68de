/** The sentences about hosts: who is where, in as many words as the brief has entries, and what a port without one does. */
import { Link } from "react-router";
import type { Brief } from "../../api/client";

const SHOWN = 6;

export function Hosts({ brief, name }: { brief: Brief; name: string }) {
	const entries = Object.entries(brief.hosts ?? {});
	const sheet = `/f/${name}/segments`;
	if (!entries.length)
		return (
			<p>
				<span className="text-soft">
					No host is named yet, so every port carries every segment of its rack.
				</span>{" "}
				<Link className="button-plain" to={sheet}>
					Name hosts
				</Link>
			</p>
		);
	return (
		<>
			<ul className="mb-1">
				{entries.slice(0, SHOWN).map(([entry, host]) => (
					<li key={entry}>
						<Link className="word" to={`${sheet}?find=${encodeURIComponent(entry.split(/\.\.|,/)[0] ?? "")}`}>
							{entry}
						</Link>{" "}
						at {host.at.join(" and ")}
						{host.plug ? `, by ${host.plug}` : ""}
						{host.team ? `, of ${host.team}` : ""}
					</li>
				))}
			</ul>
			<p>
				{entries.length > SHOWN && `And ${entries.length - SHOWN} more. `}
				{`Ports without a host ${EMPTY[brief.default_plug ?? "shut"] ?? `carry what ${brief.default_plug} says`}. `}
				<Link className="button-plain" to={sheet}>
					All ports
				</Link>
			</p>
		</>
	);
}

const EMPTY: Record<string, string> = { shut: "are shut", every: "carry every segment of their rack" };
