/** Coming back from the office's provider: what it said is shown to the server once, and leaves the address at once. */
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, got } from "../api/client";
import { useComeIn } from "../api/session";
import { cameBack, forgetAway } from "../api/ways";

export function Back() {
	const navigate = useNavigate();
	const [said] = useState(() => new URLSearchParams(location.search));
	const [gone] = useState(cameBack);
	const begun = useRef(false);
	const code = said.get("code");
	const state = said.get("state");
	const enter = useComeIn(
		async () => {
			if (!gone || !code || !state) return;
			const body = { ticket: gone.ticket, code, state };
			await got(
				gone.joins
					? client.PUT("/api/v1/me/provider", { body })
					: client.POST("/api/v1/session/provider", { body }),
			);
		},
		() => navigate(gone?.from ?? "/", { replace: true }),
	);
	const { mutate } = enter;
	const complete = gone !== null && code !== null && state !== null;
	useEffect(() => {
		history.replaceState(null, "", "/back");
		forgetAway();
		if (complete && !begun.current) {
			begun.current = true;
			mutate(undefined);
		}
	}, [complete, mutate]);
	const why = enter.error?.message ?? (complete ? null : refusal(said.get("error")));
	if (why === null) return null;
	return (
		<main className="p-10">
			<h1 className="mb-2 max-w-[60ch] text-lg font-bold">{why}</h1>
			<Link className="button-plain" to={gone?.joins ? "/me" : "/"}>
				{gone?.joins ? "Own page" : "Sign in"}
			</Link>
		</main>
	);
}

const refusal = (error: string | null): string =>
	error
		? `The provider let nobody through (${error.slice(0, 60)}).`
		: "Nobody was sent away from here, or this page was opened twice. Sign in again.";
