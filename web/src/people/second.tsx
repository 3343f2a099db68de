/** The second factor: codes of an app, set up by typing or reading its secret, and taken away by the password. */
import { useState } from "react";
import { client, got } from "../api/client";
import { Asked, Field } from "../app/asked";
import { Part } from "./part";
import { usePeopleAct } from "./queries";

export function Second({ has }: { has: boolean }) {
	return <Part title="Second factor">{has ? <Drop /> : <SetUp />}</Part>;
}

function SetUp() {
	const [code, setCode] = useState("");
	const propose = usePeopleAct(() => got(client.POST("/api/v1/me/second")));
	const proposed = propose.data;
	const keep = usePeopleAct(
		(secret: string) => got(client.PUT("/api/v1/me/second", { body: { secret, code } })),
		() => "From now on your codes are asked for.",
		true,
	);
	if (!proposed)
		return (
			<>
				<p className="mb-2">With an app that shows codes, a password that somebody saw is not enough.</p>
				<button
					type="button"
					className="button-plain"
					disabled={propose.isPending}
					onClick={() => propose.mutate(undefined)}
				>
					Set up codes
				</button>
			</>
		);
	return (
		<Asked act={keep} verb="Ask for codes from now on" onTake={() => keep.mutate(proposed.secret)}>
			<p>
				Give this secret to your app, or{" "}
				<a className="button-plain" href={proposed.uri}>
					open it there
				</a>
				:
			</p>
			<output className="mono block border border-hair bg-raised p-2 tracking-wider break-all">
				{proposed.secret.replace(/(.{4})/g, "$1 ")}
			</output>
			<Field
				label="It shows now"
				beside
				className="w-24"
				mono
				inputMode="numeric"
				autoComplete="one-time-code"
				value={code}
				set={setCode}
				required
			/>
		</Asked>
	);
}

function Drop() {
	const [password, setPassword] = useState("");
	const drop = usePeopleAct(
		() => got(client.POST("/api/v1/me/second/end", { body: { password } })),
		() => "No codes are asked for any more.",
		true,
	);
	return (
		<Asked act={drop} verb="Ask for none any more" plain onTake={() => drop.mutate(undefined)}>
			<p>Codes are asked for when you sign in.</p>
			<Field
				label="Password"
				beside
				type="password"
				autoComplete="current-password"
				value={password}
				set={setPassword}
				required
			/>
		</Asked>
	);
}
