/** One's own page: who one is here, what one may do, and what opens the door: password, codes, tokens, open sessions. */
import { useState } from "react";
import { client, got } from "../api/client";
import { Asked, Field } from "../app/asked";
import { Screen } from "../app/screen";
import { keepManners } from "../ui/theme";
import { clock, day } from "../ui/words";
import { Part } from "./part";
import { type MePage, useMe, usePeopleAct } from "./queries";
import { Second } from "./second";
import { Tokens } from "./tokens";
import { OtherWays } from "./ways";

export function OwnPage() {
	const { data: me, error } = useMe();
	return (
		<Screen title="Own page">
			<main className="overflow-y-auto px-12 py-8">
				{error && <p className="text-madder">{error.message}</p>}
				{me && (
					<div className="mx-auto grid max-w-[1080px] grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-16 gap-y-8">
						<Manner me={me} key={me.called} />
						<May me={me} />
						<Password />
						<Second has={me.second} />
						<OtherWays me={me} />
						<Tokens me={me} />
						<Sessions me={me} />
					</div>
				)}
			</main>
		</Screen>
	);
}

function Manner({ me }: { me: MePage }) {
	const [called, setCalled] = useState(me.called);
	const [keys, setKeys] = useState(me.keys.join("\n"));
	const [theme, setTheme] = useState(me.manners.theme ?? "auto");
	const [dates, setDates] = useState(me.manners.dates ?? "words");
	const [mail, setMail] = useState(me.manners.mail ?? "");
	const save = usePeopleAct(
		() =>
			got(
				client.PUT("/api/v1/me", {
					body: {
						called,
						keys: keys
							.split("\n")
							.map((key) => key.trim())
							.filter(Boolean),
						manners: { theme: theme as "auto", dates: dates as "words", mail },
					},
				}),
			),
		() => "Your page is changed.",
		true,
	);
	return (
		<Part title={`You are ${me.name}`}>
			<Asked
				act={save}
				verb="Keep it so"
				onTake={() =>
					save.mutate(undefined, {
						onSuccess: () => keepManners({ theme, dates }),
					})
				}
			>
				<Field label="Others call you" value={called} set={setCalled} required />
				<Field label="Mail of reviews goes to" value={mail} set={setMail} />
				<label className="flex flex-col gap-1">
					Your SSH keys, one a line; a brief's users are offered them
					<textarea
						className="field mono h-16"
						spellCheck={false}
						placeholder="ssh-ed25519 AAAA…"
						value={keys}
						onChange={(event) => setKeys(event.target.value)}
					/>
				</label>
				<div className="flex items-center gap-2">
					Dates as
					<select
						aria-label="Dates"
						className="field h-7"
						value={dates}
						onChange={(event) => setDates(event.target.value)}
					>
						<option value="words">4 May</option>
						<option value="iso">2026-05-04</option>
					</select>
					<span className="ml-4">Paper</span>
					<select
						aria-label="Theme"
						className="field h-7"
						value={theme}
						onChange={(event) => setTheme(event.target.value)}
					>
						<option value="auto">as the system has it</option>
						<option value="light">light</option>
						<option value="dark">dark</option>
					</select>
				</div>
			</Asked>
		</Part>
	);
}

function May({ me }: { me: MePage }) {
	return (
		<Part title="What you are here">
			{me.given.length === 0 && <p>Nothing yet. Whoever keeps this Barrio can give you a role.</p>}
			<ul>
				{me.given.map((one) => (
					<li key={one.id} className="flex gap-2 py-0.5">
						<b className="font-[560]">{one.role}</b> of {one.fabric ?? "all fabrics"}
						{one.team && <span className="text-walnut italic">by {one.team}</span>}
					</li>
				))}
			</ul>
		</Part>
	);
}

function Password() {
	const [old, setOld] = useState("");
	const [fresh, setFresh] = useState("");
	const change = usePeopleAct(
		() => got(client.PUT("/api/v1/me/password", { body: { old, new: fresh } })),
		() => "Your password is another one now, and you are signed out everywhere else.",
		true,
	);
	return (
		<Part title="Password">
			<Asked
				act={change}
				verb="Change it"
				onTake={() =>
					change.mutate(undefined, {
						onSuccess: () => {
							setOld("");
							setFresh("");
						},
					})
				}
			>
				<Field
					label="The one you have; empty if you came in by a link"
					type="password"
					value={old}
					autoComplete="current-password"
					set={setOld}
				/>
				<Field
					label="The new one, of 12 characters or more"
					type="password"
					value={fresh}
					autoComplete="new-password"
					set={setFresh}
					required
				/>
			</Asked>
		</Part>
	);
}

function Sessions({ me }: { me: MePage }) {
	const end = usePeopleAct((session: number) =>
		got(client.DELETE("/api/v1/me/sessions/{session}", { params: { path: { session } } })),
	);
	const others = usePeopleAct(
		() => got(client.DELETE("/api/v1/me/sessions")),
		() => "You are signed in here only.",
	);
	return (
		<Part title="Where you are signed in">
			<ul>
				{me.sessions.map((one) => (
					<li key={one.id} className="flex gap-3 border-b border-hair/60 py-1">
						<span className="min-w-0 flex-1">
							<span className="mono">{one.address}</span>
							{one.id === me.here && <b className="font-[560] text-moss"> here</b>}
							<span className="block truncate text-[11.8px] text-soft" title={one.agent}>
								{program(one.agent)}, seen {day(one.seen_at)}, {clock(one.seen_at)}
							</span>
						</span>
						{one.id !== me.here && (
							<button
								type="button"
								className="button-plain"
								disabled={end.isPending}
								onClick={() => end.mutate(one.id)}
							>
								End
							</button>
						)}
					</li>
				))}
			</ul>
			{me.sessions.length > 1 && (
				<button
					type="button"
					className="button-plain mt-2"
					disabled={others.isPending}
					onClick={() => others.mutate(undefined)}
				>
					End all but this one
				</button>
			)}
		</Part>
	);
}

/** A browser and its system, of what it says of itself. */
export function program(agent: string): string {
	const browser = /(Firefox|Edg|Chrome|Safari)\//.exec(agent)?.[1];
	const system = /(Windows|Macintosh|Linux|Android|iPhone|iPad)/.exec(agent)?.[1];
	if (!browser) return agent.split("/")[0] || "a program";
	return [browser === "Edg" ? "Edge" : browser, system === "Macintosh" ? "macOS" : system]
		.filter(Boolean)
		.join(" on ");
}
