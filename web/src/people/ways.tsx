/** Other ways in than the password: one's passkeys, and the account that the office's provider has of one. */
import { useState } from "react";
import { client, got } from "../api/client";
import { goAway, made, passkeysWork, useWays } from "../api/ways";
import { Asked, Field } from "../app/asked";
import { day } from "../ui/words";
import { Part } from "./part";
import { type MePage, usePeopleAct } from "./queries";

export function OtherWays({ me }: { me: MePage }) {
	const { data: ways } = useWays();
	return (
		<Part title="Passkeys">
			<ul className="mb-2">
				{me.passkeys.map((one) => (
					<Passkey key={one.name} name={one.name} made={one.made_at} used={one.used_at} />
				))}
			</ul>
			{passkeysWork() ? (
				<NewPasskey first={me.passkeys.length === 0} />
			) : (
				<p className="text-soft">
					A passkey is bound to a name: open Barrio by its name (localhost, on this machine) to make one.
				</p>
			)}
			{(ways?.provider || me.outside) && <Account called={ways?.provider} shown={me.outside} />}
		</Part>
	);
}

function Passkey({ name, made: since, used }: { name: string; made: string; used: string | null }) {
	const [asks, setAsks] = useState(false);
	const [password, setPassword] = useState("");
	const drop = usePeopleAct(
		() =>
			got(
				client.POST("/api/v1/me/passkeys/{key}/end", { params: { path: { key: name } }, body: { password } }),
			),
		() => `${name} lets nobody in any more.`,
		true,
	);
	return (
		<li className="border-b border-hair/60 py-1">
			<div className="flex gap-3">
				<span className="min-w-0 flex-1">
					<b className="font-[560]">{name}</b>
					<span className="block text-[11.8px] text-soft">
						made {day(since)}, {used ? `used ${day(used)}` : "not used yet"}
					</span>
				</span>
				{!asks && (
					<button
						type="button"
						className="button-plain"
						aria-label={`Take away passkey ${name}`}
						onClick={() => setAsks(true)}
					>
						Take away
					</button>
				)}
			</div>
			{asks && (
				<Asked act={drop} verb={`Take ${name} away`} plain onTake={() => drop.mutate(undefined)}>
					<OldPassword value={password} set={setPassword} />
				</Asked>
			)}
		</li>
	);
}

function NewPasskey({ first }: { first: boolean }) {
	const [name, setName] = useState("");
	const [password, setPassword] = useState("");
	const add = usePeopleAct<undefined>(
		async () => {
			const to = await got(client.POST("/api/v1/me/passkeys/begin", { body: { password } }));
			await got(
				client.POST("/api/v1/me/passkeys", { body: { ticket: to.ticket, answer: await made(to), name } }),
			);
			setName("");
			setPassword("");
		},
		() => "The passkey lets you in from now on; a password alone does not.",
		true,
	);
	return (
		<Asked act={add} verb="Make a passkey" plain onTake={() => add.mutate(undefined)}>
			{first && (
				<p>A passkey stays in your device or key, and lets you in without a password; nobody can guess it.</p>
			)}
			<div className="flex flex-wrap gap-4">
				<Field
					label="Called"
					beside
					className="w-36"
					placeholder="laptop"
					value={name}
					set={setName}
					required
				/>
				<OldPassword value={password} set={setPassword} />
			</div>
		</Asked>
	);
}

function OldPassword({ value, set }: { value: string; set: (value: string) => void }) {
	return (
		<Field
			label="Password"
			beside
			className="w-40"
			type="password"
			autoComplete="current-password"
			value={value}
			set={set}
		/>
	);
}

function Account({ called, shown }: { called?: string | null; shown: string | null }) {
	const [password, setPassword] = useState("");
	const join = usePeopleAct<undefined>(
		async () => goAway(await got(client.POST("/api/v1/me/provider/begin", { body: { password } })), true),
		undefined,
		true,
	);
	const part = usePeopleAct(
		() => got(client.DELETE("/api/v1/me/provider")),
		() => "You sign in by it no more.",
	);
	if (shown)
		return (
			<p className="mt-4 flex items-baseline gap-3">
				<span className="flex-1">
					{called ?? "The provider"} knows you as <b className="font-[560]">{shown}</b>.
				</span>
				<button
					type="button"
					className="button-plain"
					disabled={part.isPending}
					onClick={() => part.mutate(undefined)}
				>
					Part from it
				</button>
			</p>
		);
	return (
		<div className="mt-4">
			<Asked act={join} verb={`Join your account of ${called}`} plain onTake={() => join.mutate(undefined)}>
				<OldPassword value={password} set={setPassword} />
			</Asked>
		</div>
	);
}
