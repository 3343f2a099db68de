/** What one can do with a span of a pool: reserve it, cut a pool from it, see who has numbers in it. */
import { useState } from "react";
import { client, got, type Pool, type PoolRange, type Run } from "../api/client";
import { useOpenFabric } from "../app/open";
import { counted } from "../ui/words";
import { usePoolAct } from "./act";
import { blocksOf, prefixText, type Span, sizeOf, sizeText, spanText } from "./span";

interface Props {
	pool: Pool;
	range: PoolRange;
	span: Span;
	runs: Run[];
	onDone: () => void;
	onPool: (name: string) => void;
}

export function Selected({ pool, range, span, runs, onDone, onPool }: Props) {
	const fabric = useOpenFabric();
	const [doing, setDoing] = useState<"" | "reserve" | "cut">("");
	const [note, setNote] = useState("");
	const [name, setName] = useState("");
	const [mine, setMine] = useState(false);
	const text = spanText(range.family, span);
	const owners = ownersOf(runs, span);
	const taken = owners.reduce((sum, [, count]) => sum + count, 0);
	const reserve = usePoolAct(
		() =>
			got(
				client.POST("/api/v1/pools/{pool}/reservations", {
					params: { path: { pool: pool.name } },
					body: { range: text, note },
				}),
			),
		() => `${text} is reserved: ${note}.`,
	);
	const cut = usePoolAct(
		() =>
			got(
				client.POST("/api/v1/pools", {
					body: {
						name,
						ranges:
							range.family === "number"
								? [text]
								: blocksOf(span).map((block) => prefixText(range.family, block)),
						parent: pool.name,
						private_to: mine ? fabric.name : null,
						kind: pool.kind,
						plan: pool.plan,
						scope: pool.scope,
						note: "",
					},
				}),
			),
		() => `Pool ${name} is cut from ${pool.name}.`,
	);
	return (
		<form
			aria-label="The span selected"
			className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1.5 border-y border-hair bg-wash px-3 py-1.5"
			onSubmit={(event) => {
				event.preventDefault();
				if (doing === "reserve") reserve.mutate(undefined, { onSuccess: onDone });
				if (doing === "cut")
					cut.mutate(undefined, {
						onSuccess: () => {
							onDone();
							onPool(name);
						},
					});
			}}
		>
			<b className="mono font-semibold">{text}</b>
			<span className="text-soft">
				{sizeText(sizeOf(span))} {range.family === "number" ? "numbers" : "addresses"},{" "}
				{taken === 0
					? "none taken"
					: owners.map(([owner, count]) => `${counted(count, "entry", "entries")} of ${owner}`).join(", ")}
			</span>
			{doing === "" && (
				<span className="ml-auto flex items-baseline gap-4">
					<button type="button" className="button-plain" onClick={() => setDoing("reserve")}>
						Reserve it…
					</button>
					<button type="button" className="button-plain" onClick={() => setDoing("cut")}>
						Cut a pool from it…
					</button>
					<button type="button" className="button-plain" onClick={onDone}>
						Leave it
					</button>
				</span>
			)}
			{doing === "reserve" && (
				<span className="ml-auto flex items-center gap-3">
					<label className="flex items-center gap-2">
						What for?
						<input
							ref={focus}
							required
							className="field w-64"
							value={note}
							onChange={(event) => setNote(event.target.value)}
						/>
					</label>
					<button type="submit" className="button-main" disabled={reserve.isPending}>
						Reserve
					</button>
					<button type="button" className="button-plain" onClick={() => setDoing("")}>
						Back
					</button>
				</span>
			)}
			{doing === "cut" && (
				<span className="ml-auto flex items-center gap-3">
					<label className="flex items-center gap-2">
						Its name
						<input
							ref={focus}
							required
							className="field mono w-44"
							value={name}
							onChange={(event) => setName(event.target.value)}
						/>
					</label>
					<label className="flex items-center gap-1.5">
						<input type="checkbox" checked={mine} onChange={(event) => setMine(event.target.checked)} />
						only for {fabric.name}
					</label>
					<button type="submit" className="button-main" disabled={cut.isPending}>
						Cut it
					</button>
					<button type="button" className="button-plain" onClick={() => setDoing("")}>
						Back
					</button>
				</span>
			)}
		</form>
	);
}

/** Focus a field that was asked for this moment. */
const focus = (field: HTMLInputElement | null) => field?.focus();

/** Who has entries in a span, as far as the strip shows: (fabric, how many). */
function ownersOf(runs: Run[], span: Span): [string, number][] {
	const found = new Map<string, number>();
	for (const run of runs) {
		if (run.state === "kept" || run.state === "cut") continue;
		if (BigInt(run.high) < span.low || BigInt(run.low) > span.high) continue;
		found.set(run.fabric, (found.get(run.fabric) ?? 0) + run.count);
	}
	return [...found];
}
