/** The switches of a fabric by role, with what the last change did to each. */
import { type ReactNode, useRef, useState } from "react";
import type { SwitchRow } from "../api/client";
import { useKey } from "../ui/keys";

const GROUPS: [string, string][] = [
	["super-spine", "Super-spines"],
	["spine", "Spines"],
	["leaf", "Leaves"],
	["border", "Border"],
];

interface Props {
	switches: SwitchRow[];
	current: string;
	/** Who else looks at which switch. */
	others: ReadonlyMap<string, string>;
	onOpen: (name: string) => void;
	/** What stands below the box that finds a switch. */
	children?: ReactNode;
}

export function SwitchList({ switches, current, others, onOpen, children }: Props) {
	const [words, setWords] = useState("");
	const box = useRef<HTMLInputElement>(null);
	useKey("/", (event) => {
		event.preventDefault();
		box.current?.focus();
	});
	const wanted = words.trim().toLowerCase();
	const shown = switches.filter((one) =>
		`${one.name} ${one.role} ${one.rack} ${one.model} ${one.asn} ${one.loopback}`
			.toLowerCase()
			.includes(wanted),
	);
	return (
		<nav
			aria-label="Switches"
			className="w-[212px] flex-none overflow-y-auto border-r border-hair pt-3.5 pb-4"
		>
			<div className="px-4 pl-5">
				<input
					ref={box}
					className="field w-full"
					value={words}
					aria-label="Find a switch"
					placeholder="name, rack, ASN…"
					onChange={(event) => setWords(event.target.value)}
				/>
				{children}
			</div>
			{GROUPS.map(([role, title]) => {
				const members = shown.filter((one) => one.role === role);
				if (!members.length) return null;
				return (
					<section key={role}>
						<h2 className="mx-5 mt-3 mb-1 text-[11px] font-semibold text-soft">{title}</h2>
						<ul>
							{members.map((one) => (
								<li key={one.key}>
									<button
										type="button"
										aria-current={one.name === current ? "page" : undefined}
										title={others.has(one.name) ? `${others.get(one.name)} looks at it too` : undefined}
										onClick={() => onOpen(one.name)}
										className={`mono flex w-full items-center gap-2 min-h-6 py-[2px] pr-4 pl-5 text-left hover:text-indigo ${one.name === current ? "bg-raised font-bold text-indigo shadow-[inset_3px_0_var(--indigo)]" : ""}`}
									>
										<span
											aria-hidden="true"
											className={`h-[9px] w-[9px] flex-none ${one.state ? "border border-madder" : one.fresh ? "hatched-solid outline outline-weld" : "bg-moss"}`}
										/>
										<span className={`truncate ${others.has(one.name) ? "border-b-2 border-weld" : ""}`}>
											{one.name}
										</span>
										{one.state && (
											<span className="ml-auto font-sans text-[11px] font-normal text-madder">
												{one.state === "planned later" ? "later" : "out"}
											</span>
										)}
										{one.fresh && !one.state && (
											<span className="ml-auto font-sans text-[11px] font-normal text-weld-ink">new</span>
										)}
									</button>
								</li>
							))}
						</ul>
					</section>
				);
			})}
			{switches.length > 0 && shown.length === 0 && (
				<p className="px-5 py-3 text-soft">No switch matches “{words}”.</p>
			)}
		</nav>
	);
}
