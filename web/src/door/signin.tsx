/** The door: a sentence to fill in, in place of whatever was to be shown; behind it the address stays what it was. */
import { useMutation } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useEffect, useState } from "react";
import { client, got } from "../api/client";
import { useComeIn } from "../api/session";
import { Declined, enterByPasskey, goAway, passkeysWork, useWays } from "../api/ways";
import { Refusal } from "../app/refusal";
import { Gate } from "./gate";

export function SignIn() {
	const [name, setName] = useState("");
	const [password, setPassword] = useState("");
	const [code, setCode] = useState("");
	const enter = useComeIn(() => got(client.POST("/api/v1/session", { body: { name, password, code } })));
	const asksCode = enter.error?.problem.type.endsWith("sign-in.code") || code !== "";
	const needs = enter.error?.problem.type.endsWith("sign-in.passkey");
	useEffect(() => {
		document.title = "Come in · Barrio";
	}, []);
	return (
		<Door
			title="Who is there?"
			verb="Come in"
			busy={enter.isPending}
			onSubmit={() => enter.mutate(undefined)}
			failure={enter.error && !enter.error.problem.type.endsWith("sign-in.code") ? enter.error : null}
			hint={<OtherWays needed={needs} />}
		>
			I am <Blank label="Name" value={name} set={setName} width="9ch" autoComplete="username" first />, and my
			password is{" "}
			<Blank label="Password" value={password} set={setPassword} secret autoComplete="current-password" />
			{asksCode && (
				<>
					; my code says{" "}
					<Blank label="Code" value={code} set={setCode} width="6ch" autoComplete="one-time-code" first />
				</>
			)}
			.
		</Door>
	);
}

/** The office's provider and a passkey, where there are such ways in. `needed` when a password alone was not enough. */
function OtherWays({ needed = false }: { needed?: boolean }) {
	const { data: ways } = useWays();
	const passkey = useComeIn(() => enterByPasskey());
	const provider = useMutation<void, Error>({
		mutationFn: async () => goAway(await got(client.POST("/api/v1/session/provider/begin")), false),
	});
	const failure = passkey.error ?? provider.error;
	const busy = passkey.isPending || provider.isPending;
	if (!ways?.provider && !passkeysWork()) return null;
	const way = "underline decoration-hair decoration-2 underline-offset-4 hover:decoration-indigo";
	return (
		<span>
			or by{" "}
			{ways?.provider && (
				<button type="button" className={way} disabled={busy} onClick={() => provider.mutate()}>
					{ways.provider}
				</button>
			)}
			{ways?.provider && passkeysWork() && ", or "}
			{passkeysWork() && (
				<button
					type="button"
					className={`${way} ${needed ? "font-bold text-indigo" : ""}`}
					disabled={busy}
					onClick={() => passkey.mutate(undefined)}
				>
					a passkey
				</button>
			)}
			{failure && (
				<span role="alert" className={`mt-1 block ${failure instanceof Declined ? "" : "text-madder"}`}>
					{failure.message}
				</span>
			)}
		</span>
	);
}

interface DoorProps {
	title: string;
	verb: string;
	busy: boolean;
	failure: Parameters<typeof Refusal>[0]["failure"] | null;
	onSubmit: () => void;
	children: ReactNode;
	hint?: ReactNode;
}

/** What one says to come in, beside the picture of a gate. */
export function Door({ title, verb, busy, failure, onSubmit, children, hint }: DoorProps) {
	return (
		<main className="grid h-dvh grid-cols-[minmax(0,5fr)_minmax(0,6fr)] max-[760px]:grid-cols-1">
			<Gate />
			<form
				className="flex max-w-[620px] flex-col justify-center px-14 max-[760px]:px-6"
				onSubmit={(event: FormEvent) => {
					event.preventDefault();
					onSubmit();
				}}
			>
				<h1 className="mb-5 text-[26px] font-bold tracking-tight">{title}</h1>
				<div className="mb-6 text-[19px] leading-[2]">{children}</div>
				{failure && <Refusal failure={failure} />}
				<div className="flex items-baseline gap-5">
					<button type="submit" className="button-main px-6! py-2! text-[15px]" disabled={busy}>
						{busy ? "A moment…" : verb}
					</button>
					{hint && <span className="text-soft">{hint}</span>}
				</div>
			</form>
		</main>
	);
}

interface BlankProps {
	label: string;
	value: string;
	set: (value: string) => void;
	width?: string;
	secret?: boolean;
	first?: boolean;
	autoComplete: string;
}

/** A gap in a sentence. */
export function Blank({ label, value, set, width = "15ch", secret, first, autoComplete }: BlankProps) {
	return (
		<input
			// biome-ignore lint/a11y/noAutofocus: the page is opened to fill this in
			autoFocus={first}
			aria-label={label}
			type={secret ? "password" : "text"}
			className="h-[1.5em] border-b-2 border-indigo border-dashed bg-transparent px-1 align-baseline font-[560] text-indigo outline-none focus:border-indigo focus:border-solid focus:bg-chosen"
			style={{ width: `max(${width}, ${value.length + 2}ch)`, maxWidth: "100%" }}
			value={value}
			onChange={(event) => set(event.target.value)}
			autoComplete={autoComplete}
			autoCapitalize="none"
			spellCheck={false}
			required
		/>
	);
}
