/** The record: time down the page, day by day; who did what, and, for what is chosen, what stood there before and after. */
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Fragment, useDeferredValue } from "react";
import { client, got } from "../api/client";
import type { components } from "../api/schema";
import { Screen } from "../app/screen";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { usePlace } from "../ui/place";
import { clock, day } from "../ui/words";
import { Sides } from "./sides";

type Deed = components["schemas"]["Deed"];
const TOPICS: [string, string][] = [
	["", "anything"],
	["ledger", "numbers"],
	["people", "people"],
	["catalogue", "the catalogue"],
];

type Sieve = { text?: string; author?: string; fabric?: string; topic?: string };

const useDeeds = (sieve: Sieve) =>
	useInfiniteQuery({
		queryKey: ["record", sieve],
		queryFn: ({ pageParam }) =>
			got(client.GET("/api/v1/record", { params: { query: { ...sieve, before: pageParam } } })),
		initialPageParam: null as number | null,
		getNextPageParam: (last) => last.more,
		placeholderData: (before) => before,
		staleTime: 0,
	});

export function RecordScreen() {
	const [place, go] = usePlace("text", "author", "fabric", "topic", "deed");
	const { deed: chosen, ...sieve } = place;
	const found = useDeeds(useDeferredValue(sieve));
	const deeds = found.data?.pages.flatMap((page) => page.deeds) ?? [];
	const one = deeds.find((deed) => String(deed.id) === chosen);
	const set = (more: Sieve) => go({ ...sieve, ...more });
	return (
		<Screen title="Record">
			<div className="flex min-h-0">
				<main className="flex min-w-0 flex-1 flex-col px-8 pt-6">
					<h1 className="sr-only">Record</h1>
					<Asked sieve={sieve} set={set} />
					{found.error && <p className="text-madder">{found.error.message}</p>}
					<ol aria-label="Acts" className="min-h-0 flex-1 overflow-y-auto pb-8">
						{deeds.map((deed, at) => (
							<Fragment key={deed.id}>
								{(at === 0 || day(deed.at) !== day(deeds[at - 1]?.at ?? "")) && (
									<li className="sticky top-0 border-b border-hair bg-paper pt-4 pb-1 text-[15px] font-bold">
										{day(deed.at)}
									</li>
								)}
								<Row
									deed={deed}
									chosen={deed === one}
									onChoose={() => go({ ...sieve, deed: String(deed.id) })}
								/>
							</Fragment>
						))}
						{found.data && !deeds.length && (
							<li className="py-6 text-soft">Nothing of that kind was done.</li>
						)}
						{found.hasNextPage && (
							<li className="py-3">
								<button
									type="button"
									className="button-plain"
									disabled={found.isFetchingNextPage}
									onClick={() => void found.fetchNextPage()}
								>
									Earlier
								</button>
							</li>
						)}
					</ol>
				</main>
				<Margin width={380}>
					{one ? (
						<What deed={one} />
					) : (
						<p className="pr-6 text-soft">
							Choose an act to see what stood there before and after. Nobody can alter the record; the
							database refuses it.
						</p>
					)}
				</Margin>
			</div>
		</Screen>
	);
}

function Asked({ sieve, set }: { sieve: Sieve; set: (more: Sieve) => void }) {
	const query = new URLSearchParams(
		Object.entries(sieve).filter((pair): pair is [string, string] => Boolean(pair[1])),
	);
	const word = "field h-7";
	return (
		<div className="flex flex-wrap items-center gap-2 pb-3 text-[15px]">
			What
			<input
				aria-label="Who"
				className={`${word} w-28`}
				placeholder="anybody"
				value={sieve.author ?? ""}
				onChange={(event) => set({ author: event.target.value })}
			/>
			did to
			<input
				aria-label="Fabric"
				className={`${word} mono w-24`}
				placeholder="any fabric"
				value={sieve.fabric ?? ""}
				onChange={(event) => set({ fabric: event.target.value })}
			/>
			about
			<select
				aria-label="About"
				className={word}
				value={sieve.topic ?? ""}
				onChange={(event) => set({ topic: event.target.value })}
			>
				{TOPICS.map(([value, label]) => (
					<option key={value} value={value}>
						{label}
					</option>
				))}
			</select>
			with the word
			<input
				aria-label="Word"
				className={`${word} w-24`}
				placeholder="…"
				value={sieve.text ?? ""}
				onChange={(event) => set({ text: event.target.value })}
			/>
			<a
				className="button-plain ml-auto text-[13.5px]"
				href={`/api/v1/record.csv?${query}`}
				download="record.csv"
			>
				Download (CSV)
			</a>
		</div>
	);
}

function Row({ deed, chosen, onChoose }: { deed: Deed; chosen: boolean; onChoose: () => void }) {
	return (
		<li>
			<button
				type="button"
				aria-current={chosen}
				className={`flex w-full items-baseline gap-4 border-b border-hair/60 py-1 pl-1 text-left ${chosen ? "bg-chosen" : "hover:bg-raised"}`}
				onClick={onChoose}
			>
				<span className="mono w-12 flex-none text-soft">{clock(deed.at)}</span>
				<span className="w-40 flex-none truncate font-[560]">
					{deed.author || (
						<i className="font-normal text-soft">{deed.address ? "somebody" : "Barrio itself"}</i>
					)}
					{deed.token && <span className="font-normal text-soft"> by token</span>}
				</span>
				<span className="min-w-0 flex-1 truncate">
					{deed.act}
					{deed.note && <span className="text-soft">: {deed.note}</span>}
				</span>
				<span className="mono flex-none text-soft">{deed.fabric}</span>
			</button>
		</li>
	);
}

function What({ deed }: { deed: Deed }) {
	const { data } = useQuery({
		queryKey: ["record", "one", deed.id],
		queryFn: () => got(client.GET("/api/v1/record/{deed}", { params: { path: { deed: deed.id } } })),
		staleTime: Number.POSITIVE_INFINITY,
	});
	return (
		<>
			<MarginHead kind={`act ${deed.id}`} title={deed.act} />
			<Facts
				rows={[
					["by", deed.author || (deed.address ? "somebody who did not come in" : "Barrio itself")],
					...(deed.token ? [["token", deed.token] as [string, string]] : []),
					...(deed.address ? [["from", deed.address] as [string, string]] : []),
					["at", `${day(deed.at)}, ${clock(deed.at)}`],
					...(deed.fabric ? [["fabric", deed.fabric] as [string, string]] : []),
					...(deed.note ? [["note", deed.note] as [string, string]] : []),
				]}
			/>
			{data?.map((one) => (
				<Sides key={`${one.thing} ${one.key}`} altered={one} />
			))}
			{data?.length === 0 && <p className="text-soft">Beside numbers of the Ledger it altered nothing.</p>}
		</>
	);
}
