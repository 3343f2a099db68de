/** The ledger: every pool as a strip of what is taken and free; one pool seen closer, with its numbers and their reasons. */
import { useCallback, useState } from "react";
import { Link } from "react-router";
import type { Entry, Run } from "../api/client";
import { useLedgerPools, usePools } from "../api/queries";
import { useMay } from "../api/session";
import { MayOnly } from "../app/only";
import { useOpenFabric } from "../app/open";
import { KeysDialog } from "../ui/keys";
import { usePlace } from "../ui/place";
import { Entries } from "./entries";
import { Lens } from "./lens";
import { LedgerMargin } from "./margin";
import { NewPool } from "./newpool";
import { OwnedNumbers } from "./owned";
import { Selected } from "./selected";
import type { Span } from "./span";
import { PoolStrips } from "./strips";

interface Selection {
	range: string;
	span: Span;
	runs: Run[];
}

export function LedgerScreen() {
	const fabric = useOpenFabric();
	const [place, goTo] = usePlace("pool", "number", "of");
	const mayKeep = useMay("pools");
	const [selection, setSelection] = useState<Selection | null>(null);
	const [chosen, setChosen] = useState<Entry>();
	const choose = useCallback((entry: Entry | undefined) => setChosen(entry), []);
	const pools = useLedgerPools().data ?? [];
	const ranges = usePools().data ?? [];
	const name = place.pool ?? fabric.numbers[0]?.pool ?? ranges[0]?.pool ?? "";
	const pool = pools.find((one) => one.name === name);
	const number = place.number ?? "";
	const open = (next: string) => {
		setSelection(null);
		goTo({ pool: next });
	};
	const mine = ranges.filter((range) => range.pool === name);
	return (
		<>
			<main className="flex min-w-0 flex-1 flex-col px-5 pt-3.5">
				{place.of ? (
					<OwnedNumbers
						of={place.of}
						onClose={() => goTo({ pool: name })}
						onOpen={(next, text) => goTo({ pool: next, number: text })}
					/>
				) : (
					<>
						<PoolStrips pools={pools} ranges={ranges} fabric={fabric} current={name} onOpen={open} />
						<section
							aria-label={`Pool ${name}`}
							className="flex min-h-0 flex-1 flex-col border-t border-hair pt-2.5"
						>
							<div className="mb-1.5 flex items-center gap-5">
								<h1 className="text-[17px] font-bold">{name}</h1>
								{pool?.private_to && <span className="text-soft">only for {pool.private_to}</span>}
								<span className="ml-auto flex items-baseline gap-5">
									<MayOnly right="pools">
										<Link className="button-plain" to={`/f/${fabric.name}/ledger/import`}>
											Import a plan
										</Link>
										<NewPool onMade={open} />
									</MayOnly>
								</span>
							</div>
							{pools.length > 0 && !pool && (
								<p role="alert" className="mb-2 border-l-4 border-madder pl-2.5 text-madder">
									There is no pool called {name}. Choose one above, or make it.
								</p>
							)}
							{mine.map((range) => (
								<Lens
									key={`${name} ${range.range}`}
									range={range}
									chosen={chosen?.number}
									span={selection?.range === range.range ? selection.span : null}
									onSpan={(span, runs) => setSelection(span && { range: range.range, span, runs })}
									onNumber={(text) => goTo({ pool: name, number: text })}
								/>
							))}
							{pool && selection && mayKeep && (
								<Selection
									key={`${selection.span.low} ${selection.span.high}`}
									selection={selection}
									ranges={mine}
									pool={pool}
									onDone={() => setSelection(null)}
									onPool={open}
								/>
							)}
							<Entries
								key={name}
								pool={name}
								number={number}
								onChoose={choose}
								onNumber={(text) => goTo({ pool: name, number: text })}
							/>
						</section>
					</>
				)}
			</main>
			<LedgerMargin entry={chosen} pool={pool} ranges={mine} onClose={() => goTo({ pool: name })} />
			<KeysDialog
				here={[
					["+ −", "look closer at a strip, and back (with the strip chosen)"],
					["← →", "the number before and after, on the strip; with Shift the strip moves"],
					["drag", "over a strip selects a span, to reserve or to cut a pool from"],
					["Ctrl C, Ctrl V", "copy cells; paste numbers onto numbers to pin them"],
				]}
			/>
		</>
	);
}

function Selection({
	selection,
	ranges,
	...rest
}: { selection: Selection; ranges: import("../api/client").PoolRange[] } & Omit<
	React.ComponentProps<typeof Selected>,
	"range" | "span" | "runs"
>) {
	const range = ranges.find((one) => one.range === selection.range);
	return range ? <Selected {...rest} range={range} span={selection.span} runs={selection.runs} /> : null;
}
