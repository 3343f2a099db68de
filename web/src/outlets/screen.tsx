/** Who is told outside: webhooks, mail and git remotes, each with what was sent there and how it went. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Failure, got } from "../api/client";
import { useFabrics } from "../api/queries";
import type { components } from "../api/schema";
import { Refusal } from "../app/refusal";
import { Screen } from "../app/screen";
import { clock, counted, day } from "../ui/words";

type Outlet = components["schemas"]["OutletView"];
type Delivery = components["schemas"]["DeliveryView"];
type Kind = Outlet["kind"];

const HOW: Record<Kind, [string, string]> = {
	webhook: ["a webhook", "https://tide.example/barrio"],
	mail: ["a mail server", "smtp://barrio@mail.example:587?from=barrio@azulejo.example"],
	git: ["a git remote", "git@git.example:fabrics.git"],
};

export function OutletsScreen() {
	const { data, error } = useQuery({
		queryKey: ["outlets"],
		queryFn: () => got(client.GET("/api/v1/outlets")),
		refetchInterval: 5000,
	});
	return (
		<Screen title="Told outside">
			<main className="overflow-y-auto px-12 py-7">
				<div className="mx-auto max-w-[920px]">
					<h1 className="mb-1 text-[19px] font-bold">Told outside</h1>
					<p className="mb-4 max-w-[72ch] text-soft">
						What happens to drafts and editions is told here as well, and tried again for seven days until it
						is taken. Webhooks are signed (RFC 9421, hmac-sha256); a repetition has the same{" "}
						<span className="mono">Barrio-Delivery</span>. A git remote gets every edition as a commit, and
						nothing there is ever overwritten.
					</p>
					{error && <p className="text-madder">{error.message}</p>}
					<ul className="border-t border-hair">
						{data?.map((one) => (
							<Row key={one.id} outlet={one} />
						))}
						{data?.length === 0 && (
							<li className="border-b border-hair py-3 text-soft">Nobody is told yet.</li>
						)}
					</ul>
					<New />
				</div>
			</main>
		</Screen>
	);
}

function useOutletAct<Asked>(act: (asked: Asked) => Promise<unknown>) {
	const queries = useQueryClient();
	return useMutation<unknown, Failure, Asked>({
		mutationFn: act,
		onSettled: () => queries.invalidateQueries({ queryKey: ["outlets"] }),
	});
}

function Row({ outlet }: { outlet: Outlet }) {
	const [open, setOpen] = useState(false);
	const drop = useOutletAct(() =>
		got(client.DELETE("/api/v1/outlets/{outlet}", { params: { path: { outlet: outlet.id } } })),
	);
	const waits = outlet.deliveries.filter((one) => !one.done_at);
	const trouble = waits.find((one) => one.trouble);
	return (
		<li className="border-b border-hair py-2.5">
			<div className="flex items-baseline gap-4">
				<b className="w-28 flex-none font-semibold">{HOW[outlet.kind][0]}</b>
				<span className="mono min-w-0 flex-1 break-all">{outlet.address}</span>
				<span className="text-soft">{outlet.fabric ?? "all fabrics"}</span>
				<button
					type="button"
					className="button-plain"
					aria-expanded={open}
					disabled={!outlet.deliveries.length}
					onClick={() => setOpen(!open)}
				>
					{waits.length
						? `${counted(waits.length, "waits", "wait")}`
						: outlet.deliveries.length
							? "all sent"
							: "nothing yet"}
				</button>
				<button
					type="button"
					className="button-plain"
					disabled={drop.isPending}
					onClick={() => drop.mutate(undefined)}
				>
					Take away
				</button>
			</div>
			{trouble && <p className="mt-1 border-l-4 border-madder pl-3">{trouble.trouble}</p>}
			{open && (
				<ol className="mt-1 ml-28">
					{outlet.deliveries.map((one) => (
						<Sent key={one.id} one={one} />
					))}
				</ol>
			)}
		</li>
	);
}

function Sent({ one }: { one: Delivery }) {
	const again = useOutletAct(() =>
		got(client.POST("/api/v1/outlets/deliveries/{delivery}", { params: { path: { delivery: one.id } } })),
	);
	return (
		<li className="flex items-baseline gap-4 py-0.5">
			<span className="mono w-28 text-soft">
				{day(one.made_at)}, {clock(one.made_at)}
			</span>
			<span className="min-w-0 flex-1">
				{one.fabric}: {one.what}
			</span>
			<span className="text-soft">
				{one.done_at
					? `sent ${clock(one.done_at)}${one.attempts > 1 ? `, after ${one.attempts} tries` : ""}`
					: `${counted(one.attempts, "try", "tries")}, next ${clock(one.next_at)}`}
			</span>
			{!one.done_at && (
				<button
					type="button"
					className="button-plain"
					disabled={again.isPending}
					onClick={() => again.mutate(undefined)}
				>
					Try now
				</button>
			)}
		</li>
	);
}

function New() {
	const [kind, setKind] = useState<Kind>("webhook");
	const [fabric, setFabric] = useState("");
	const [address, setAddress] = useState("");
	const [secret, setSecret] = useState("");
	const fabrics = useFabrics().data ?? [];
	const add = useOutletAct(() =>
		got(
			client.POST("/api/v1/outlets", {
				body: { kind, fabric: fabric || null, address, secret: kind === "git" ? "" : secret },
			}),
		),
	);
	const shown = (add.data as { secret?: string } | undefined)?.secret;
	return (
		<form
			className="mt-6 space-y-2.5"
			onSubmit={(event) => {
				event.preventDefault();
				add.mutate(undefined, {
					onSuccess: () => {
						setAddress("");
						setSecret("");
					},
				});
			}}
		>
			<div className="flex flex-wrap items-center gap-2 text-[15px]">
				Tell
				<select
					aria-label="Kind"
					className="field h-8"
					value={kind}
					onChange={(event) => setKind(event.target.value as Kind)}
				>
					{Object.entries(HOW).map(([value, [words]]) => (
						<option key={value} value={value}>
							{words}
						</option>
					))}
				</select>
				of
				<select
					aria-label="Fabric"
					className="field h-8"
					value={fabric}
					onChange={(event) => setFabric(event.target.value)}
				>
					<option value="">all fabrics</option>
					{fabrics.map((one) => (
						<option key={one.name} value={one.name}>
							{one.name}
						</option>
					))}
				</select>
				at
				<input
					aria-label="Address"
					className="field mono h-8 min-w-80 flex-1"
					placeholder={HOW[kind][1]}
					value={address}
					onChange={(event) => setAddress(event.target.value)}
				/>
			</div>
			{kind !== "git" && (
				<input
					aria-label={kind === "mail" ? "Password of the mail server" : "Secret to sign with"}
					type="password"
					autoComplete="off"
					className="field block h-8 w-96"
					placeholder={
						kind === "mail"
							? "password of the mail server, if it wants one"
							: "a secret to sign with; one is made without"
					}
					value={secret}
					onChange={(event) => setSecret(event.target.value)}
				/>
			)}
			{add.error && <Refusal failure={add.error} />}
			{shown && (
				<p className="border-l-4 border-moss pl-3">
					What it is signed with, shown this once: <span className="mono select-all">{shown}</span>
				</p>
			)}
			<button type="submit" className="button-main" disabled={!address.trim() || add.isPending}>
				Add it
			</button>
		</form>
	);
}
