/** Share a fabric: name somebody, say what they may be, done. */
import * as Popover from "@radix-ui/react-popover";
import { useState } from "react";
import { type Role, useMay } from "../api/session";
import { type Given, give, ROLES, take, usePeopleAct, useSharing, useTable, type Whom } from "./queries";

export function Share({ fabric }: { fabric: string }) {
	const [open, setOpen] = useState(false);
	const may = useMay("share", fabric);
	if (!may) return null;
	return (
		<Popover.Root open={open} onOpenChange={setOpen}>
			<Popover.Trigger className="button-plain mb-3.5">Share</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					align="start"
					sideOffset={4}
					className="z-30 w-[420px] rounded-[4px] border border-hair bg-raised p-3.5 shadow-md"
				>
					<Sharing fabric={fabric} />
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}

function Sharing({ fabric }: { fabric: string }) {
	const { data } = useSharing(fabric, true);
	const [role, setRole] = useState<Role>("reader");
	const [words, setWords] = useState("");
	const table = useTable().data;
	const share = usePeopleAct(
		(whom: Whom) => give(role, whom, fabric),
		(_, whom) => `${whom.person ?? whom.team} is ${role} of ${fabric} now.`,
	);
	const end = usePeopleAct(take);
	if (!data) return null;
	const has = (whom: Whom) =>
		data.given.some(
			(one) => one.role === role && (whom.team ? one.team === whom.team : one.person === whom.person),
		);
	const wanted = words.trim().toLowerCase();
	const candidates: { label: string; sub: string; whom: Whom }[] = [
		...data.people.map((one) => ({ label: one.called, sub: one.name, whom: { person: one.name } })),
		...data.teams.map((team) => ({ label: team, sub: "team", whom: { team } })),
	].filter((one) => !has(one.whom) && `${one.label} ${one.sub}`.toLowerCase().includes(wanted));
	const called = new Map(data.people.map((one) => [one.name, one.called]));
	return (
		<>
			<h3 className="mb-2 flex flex-wrap items-center gap-1.5 font-bold">
				As
				<select
					aria-label="Role"
					className="field h-7 font-normal"
					value={role}
					onChange={(event) => setRole(event.target.value as Role)}
				>
					{ROLES.filter((one) => one !== "keeper").map((one) => (
						<option key={one}>{one}</option>
					))}
				</select>
				share {fabric} with
			</h3>
			<p className="mb-2 text-[11.8px] text-soft">{table?.roles.find((one) => one.role === role)?.words}</p>
			{data.people.length + data.teams.length > 8 && (
				<input
					aria-label="Find somebody"
					className="field mb-2 w-full"
					placeholder="part of a name"
					value={words}
					onChange={(event) => setWords(event.target.value)}
				/>
			)}
			<ul className="mb-3 max-h-[168px] overflow-y-auto">
				{candidates.map((one) => (
					<li key={`${one.sub} ${one.label}`}>
						<button
							type="button"
							disabled={share.isPending}
							className="flex w-full items-baseline gap-2 rounded-[3px] px-2 py-1 text-left hover:bg-chosen"
							onClick={() => share.mutate(one.whom)}
						>
							<span className="font-[560] text-indigo">{one.label}</span>
							<span className="text-soft">{one.sub}</span>
						</button>
					</li>
				))}
				{!candidates.length && <li className="px-2 text-soft">Everybody has this role here.</li>}
			</ul>
			<div className="label-small mb-1 border-t border-hair pt-2">Who is what here</div>
			<ul className="max-h-[190px] overflow-y-auto">
				{data.given.map((one) => (
					<li key={one.id} className="flex items-baseline gap-2 px-2 py-0.5">
						<span className="min-w-0 flex-1 truncate">
							{one.person ? (called.get(one.person) ?? one.person) : <i>{one.team}</i>}
						</span>
						<span className="text-soft">
							{one.role}
							{one.fabric ? "" : ", of all fabrics"}
						</span>
						{one.fabric && <End given={one} busy={end.isPending} onEnd={end.mutate} />}
					</li>
				))}
			</ul>
		</>
	);
}

function End({ given, busy, onEnd }: { given: Given; busy: boolean; onEnd: (given: Given) => void }) {
	return (
		<button
			type="button"
			className="button-plain"
			disabled={busy}
			aria-label={`Take ${given.role} from ${given.person ?? given.team}`}
			onClick={() => onEnd(given)}
		>
			End
		</button>
	);
}
