/** Coming in by a link, good once: the first person of all, somebody with a new password, or somebody of the demo world. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, got } from "../api/client";
import { useComeIn } from "../api/session";
import { Blank, Door } from "./signin";

export function Enter() {
	// The secret stands behind the #, so that no server and no log ever sees it in an address.
	const [secret] = useState(() => location.hash.slice(1));
	const link = useQuery({
		queryKey: ["link", secret],
		queryFn: () => got(client.POST("/api/v1/links/look", { body: { secret } })),
		retry: false,
		staleTime: Number.POSITIVE_INFINITY,
		enabled: secret !== "",
	});
	if (secret === "" || link.error)
		return (
			<main className="p-10">
				<h1 className="mb-2 text-lg font-bold">
					{link.error?.message ?? "This address is part of a link: what stands behind its # is missing."}
				</h1>
				<Link className="button-plain" to="/">
					Sign in
				</Link>
			</main>
		);
	if (!link.data) return null;
	if (link.data.purpose === "first") return <First secret={secret} />;
	return <ComeIn secret={secret} name={link.data.name} chooses={link.data.purpose === "welcome"} />;
}

function First({ secret }: { secret: string }) {
	const navigate = useNavigate();
	const [called, setCalled] = useState("");
	const [name, setName] = useState("");
	const [password, setPassword] = useState("");
	const make = useComeIn(
		() => got(client.POST("/api/v1/links/first", { body: { secret, called, name, password } })),
		() => navigate("/"),
	);
	return (
		<Door
			title="Nobody lives here yet."
			verb="Move in"
			busy={make.isPending}
			failure={make.error}
			onSubmit={() => make.mutate(undefined)}
			hint="You may do everything, and let others in."
		>
			I am called <Blank label="Called" value={called} set={setCalled} autoComplete="name" first />. I will
			sign in as <Blank label="Name" value={name} set={setName} width="9ch" autoComplete="username" />, with
			the password{" "}
			<Blank
				label="Password"
				value={password}
				set={setPassword}
				width="22ch"
				secret
				autoComplete="new-password"
			/>
			.
		</Door>
	);
}

function ComeIn({ secret, name, chooses }: { secret: string; name: string; chooses: boolean }) {
	const navigate = useNavigate();
	const [password, setPassword] = useState("");
	const enter = useComeIn(
		() => got(client.POST("/api/v1/links/enter", { body: { secret, password } })),
		() => navigate("/"),
	);
	return (
		<Door
			title={chooses ? "Welcome." : "The door is open."}
			verb="Come in"
			busy={enter.isPending}
			failure={enter.error}
			onSubmit={() => enter.mutate(undefined)}
		>
			I am <b className="font-[560] text-indigo">{name}</b>
			{chooses && (
				<>
					, and from now on my password is{" "}
					<Blank
						label="New password"
						value={password}
						set={setPassword}
						width="22ch"
						secret
						autoComplete="new-password"
						first
					/>
				</>
			)}
			.
		</Door>
	);
}
