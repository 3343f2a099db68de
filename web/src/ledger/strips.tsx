/** Every pool at a glance: one strip a range, with what this fabric and others took of it, and how long it lasts. */
import type { Fabric, GrowthRow, Pool, PoolRange } from "../api/client";
import { useGrowth } from "../api/queries";
import { share } from "../ui/words";
import { lastsText, sizeText } from "./span";
import { Strip } from "./strip";

interface Props {
	pools: Pool[];
	ranges: PoolRange[];
	fabric: Fabric;
	current: string;
	onOpen: (pool: string) => void;
}

export function PoolStrips({ pools, ranges, fabric, current, onOpen }: Props) {
	const growth = useGrowth(fabric.name, fabric.version).data;
	const lasts = new Map(growth?.rows.map((row) => [`${row.pool} ${row.family}`, row]));
	const first = growth?.rows.find((row) => row.leaves !== null);
	return (
		<section aria-label="Pools" className="flex max-h-[37%] flex-none flex-col pb-3">
			<div className="mb-1.5 flex items-center gap-4.5 text-[11.5px] whitespace-nowrap text-soft">
				<Key className="size-[9px] rounded-full bg-walnut">{fabric.name}</Key>
				<Key className="size-[9px] rounded-full bg-woad">other fabrics</Key>
				<Key className="run-held [--thread:var(--soft)]">held</Key>
				<Key className="run-live [--thread:var(--soft)]">live</Key>
				<Key className="run-resting [--thread:var(--soft)]">resting</Key>
				<Key className="run-kept">reserved</Key>
				<span className="ml-auto truncate">
					{growth?.refusal ? (
						<b className="text-madder">The growth declared cannot be built: {growth.refusal}</b>
					) : (
						first && (
							<>
								First to run out: <b className="font-semibold text-ink">{first.pool}</b>,{" "}
								{lastsText(first.leaves ?? 0)}
							</>
						)
					)}
				</span>
			</div>
			<ul className="min-h-0 overflow-y-auto">
				{ordered(pools, ranges, fabric).map(([pool, range], index, all) => {
					const again = all[index - 1]?.[0].name === pool.name;
					return (
						<li key={`${range.pool} ${range.range}`}>
							<button
								type="button"
								aria-pressed={pool.name === current}
								onClick={() => onOpen(pool.name)}
								className={`grid min-h-6 w-full grid-cols-[148px_168px_1fr_248px] items-center gap-3 rounded-[2px] px-2 py-[3px] text-left hover:bg-raised ${pool.name === current ? "bg-chosen" : ""}`}
							>
								<span
									className={`truncate font-semibold ${pool.parent ? "pl-3.5" : ""} ${pool.name === current ? "text-indigo" : ""}`}
								>
									{again ? "" : pool.parent ? `└ ${pool.name}` : pool.name}
								</span>
								<span className="mono truncate">{range.range}</span>
								<span className="border border-hair bg-raised">
									<Strip runs={range.runs} fabric={fabric.name} />
								</span>
								<Words range={range} pool={pool} row={lasts.get(`${range.pool} ${range.family}`)} />
							</button>
						</li>
					);
				})}
			</ul>
		</section>
	);
}

function Words({ range, pool, row }: { range: PoolRange; pool: Pool; row: GrowthRow | undefined }) {
	const scope = pool.scope === "site" ? "" : `scope ${pool.scope}, `;
	return (
		<span className="truncate text-right whitespace-nowrap text-soft">
			{row?.short && <b className="text-madder">too small to grow, </b>}
			{row?.low && !row.short && <b className="text-weld-ink">runs low, </b>}
			{scope}
			{share(range.used_share)} used, {sizeText(BigInt(range.free))} free
			{row && row.share_grown > row.share_now && `, ${share(row.share_grown)} grown`}
		</span>
	);
}

/** This fabric's pools first, each followed by what is cut from it. */
function ordered(pools: Pool[], ranges: PoolRange[], fabric: Fabric): [Pool, PoolRange][] {
	const mine = new Set(fabric.numbers.map((use) => use.pool));
	const tops = pools
		.filter((pool) => !pool.parent)
		.sort(
			(one, two) =>
				Number(mine.has(two.name)) - Number(mine.has(one.name)) || one.name.localeCompare(two.name),
		);
	const found: [Pool, PoolRange][] = [];
	const put = (pool: Pool) => {
		for (const range of ranges) if (range.pool === pool.name) found.push([pool, range]);
		for (const child of pools) if (child.parent === pool.name) put(child);
	};
	tops.forEach(put);
	return found;
}

function Key({ className, children }: { className: string; children: React.ReactNode }) {
	return (
		<span className="flex items-center gap-1.5">
			<span className={`h-[10px] w-[14px] ${className}`} />
			{children}
		</span>
	);
}
