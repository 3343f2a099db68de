/** One thing before and after: field by field, and a brief line by line. */
import type { components } from "../api/schema";

type Altered = components["schemas"]["Altered"];

const NOUN: Record<string, string> = {
	people: "person",
	teams: "team",
	members: "membership",
	grants: "role",
	tokens: "token",
	sessions: "session",
	links: "link",
	fabrics: "fabric",
	models: "model",
	pools: "pool",
	pool_ranges: "range",
	reserved: "reservation",
	scopes: "scope",
};

export function Sides({ altered }: { altered: Altered }) {
	const before = altered.before ?? {};
	const after = altered.after ?? {};
	const names = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
		(name) =>
			name !== "brief" && name !== "head" && JSON.stringify(before[name]) !== JSON.stringify(after[name]),
	);
	return (
		<section className="mb-4" aria-label={`${altered.thing} ${altered.key}`}>
			<h3 className="mb-1 border-b border-hair font-[560]">
				{NOUN[altered.thing] ?? altered.thing} <span className="mono">{altered.key}</span>
				<span className="font-normal text-soft">
					{altered.before === null ? " made" : altered.after === null ? " gone" : ""}
				</span>
			</h3>
			<dl className="mono space-y-0.5">
				{names.map((name) => (
					<div key={name} className="flex flex-wrap gap-x-2">
						<dt className="text-soft">{name}</dt>
						<dd className="min-w-0 break-all">
							{name in before && before[name] !== null && (
								<del className="mr-2 decoration-madder">{said(before[name])}</del>
							)}
							{name in after && <ins className="no-underline">{said(after[name])}</ins>}
						</dd>
					</div>
				))}
			</dl>
			{(typeof before.brief === "string" || typeof after.brief === "string") && (
				<Lines before={String(before.brief ?? "")} after={String(after.brief ?? "")} />
			)}
		</section>
	);
}

const said = (value: unknown): string =>
	value === null ? "–" : typeof value === "string" ? value || "“”" : JSON.stringify(value);

/** The lines that differ, with the lines taken away struck. */
function Lines({ before, after }: { before: string; after: string }) {
	return (
		<pre className="mono mt-1 whitespace-pre-wrap">
			{changedLines(before.split("\n"), after.split("\n")).map(({ kind, text, at }) => (
				<div key={`${kind} ${at}`} className={kind === "gone" ? "text-madder line-through" : "text-moss"}>
					{kind === "gone" ? "− " : "+ "}
					{text}
				</div>
			))}
		</pre>
	);
}

export interface Line {
	kind: "gone" | "new";
	text: string;
	at: number;
}

/** What of two texts is not in the other, in order: by their longest common run of lines between the ends that they share. */
export function changedLines(before: string[], after: string[]): Line[] {
	let first = 0;
	while (first < before.length && first < after.length && before[first] === after[first]) first++;
	let last = 0;
	while (
		last < before.length - first &&
		last < after.length - first &&
		before[before.length - 1 - last] === after[after.length - 1 - last]
	)
		last++;
	const old = before.slice(first, before.length - last);
	const fresh = after.slice(first, after.length - last);
	if (old.length * fresh.length > 4_000_000)
		return [
			...old.map((text, at): Line => ({ kind: "gone", text, at })),
			...fresh.map((text, at): Line => ({ kind: "new", text, at })),
		];
	// The length of the longest common subsequence from each place on.
	const rest = Array.from({ length: old.length + 1 }, () => new Uint32Array(fresh.length + 1));
	for (let i = old.length - 1; i >= 0; i--)
		for (let j = fresh.length - 1; j >= 0; j--) {
			const row = rest[i] as Uint32Array;
			const under = rest[i + 1] as Uint32Array;
			row[j] = old[i] === fresh[j] ? (under[j + 1] ?? 0) + 1 : Math.max(under[j] ?? 0, row[j + 1] ?? 0);
		}
	const found: Line[] = [];
	let i = 0;
	let j = 0;
	while (i < old.length || j < fresh.length) {
		if (i < old.length && j < fresh.length && old[i] === fresh[j]) {
			i++;
			j++;
		} else if (j >= fresh.length || (i < old.length && (rest[i + 1]?.[j] ?? 0) >= (rest[i]?.[j + 1] ?? 0))) {
			found.push({ kind: "gone", text: old[i] as string, at: i++ });
		} else {
			found.push({ kind: "new", text: fresh[j] as string, at: j++ });
		}
	}
	return found;
}
