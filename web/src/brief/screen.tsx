/** The brief: prose at the left, the Weave under its sums in the middle, Because at the right. */
import { lazy, Suspense, useCallback, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { useWeave } from "../api/queries";
import { Settled, WhoMay } from "../app/only";
import { useOpenFabric } from "../app/open";
import { contracted } from "../editions/names";
import { useDrafted } from "../editions/queries";
import { KeysDialog, useKey } from "../ui/keys";
import { usePlace } from "../ui/place";
import { History } from "./history";
import { BriefMargin } from "./margin/margin";
import { Prose } from "./prose/prose";
import { AllSums } from "./sums/all";
import { SumsBar } from "./sums/sums";
import { TrialRoom } from "./sums/trial";
import { TopologyMenu } from "./topology";
import { WeaveList } from "./weave/list";
import { RacksView } from "./weave/racks";
import { WeavePicture } from "./weave/weave";

const BriefText = lazy(async () => ({ default: (await import("./text")).BriefText }));

const VIEWS = [
	["weave", "Weave", "w"],
	["racks", "Racks", "r"],
	["list", "List", "l"],
] as const;

export function BriefScreen() {
	const fabric = useOpenFabric();
	const [place, choose] = usePlace("spine", "leaf", "racks", "view", "find", "sums", "text", "line");
	const { view = "weave", find = "", sums, text: _text, line: _line, ...chosen } = place;
	const [search, setSearch] = useSearchParams();
	const weave = useWeave(fabric.name, fabric.version).data;
	const asText = search.has("text");
	const [history, setHistory] = useState(false);
	const finder = useRef<HTMLInputElement>(null);
	const keep = { view: place.view, find: place.find, sums: place.sums, text: place.text };
	const flip = useCallback(
		(event?: KeyboardEvent) => {
			event?.preventDefault();
			setSearch(asText ? {} : { text: "1" });
		},
		[asText, setSearch],
	);
	useKey("t", flip);
	useKey("s", () => choose({ ...place, sums: sums ? undefined : "1" }));
	useKey("w", () => choose({ ...place, view: undefined }));
	useKey("r", () => choose({ ...place, view: "racks" }));
	useKey("l", () => choose({ ...place, view: "list" }));
	useKey("h", () => setHistory((was) => !was));
	useKey("/", (event) => {
		event.preventDefault();
		finder.current?.focus();
	});
	const onChoose = (next: typeof chosen) => choose({ ...next, ...keep });
	const empty = weave?.leaves.length === 0;
	const draft = useDrafted(fabric);
	return (
		<TrialRoom>
			{asText ? (
				<aside
					aria-label="Brief as text"
					className="flex w-[410px] flex-none flex-col border-r border-hair pt-3.5 pr-3 pl-3"
				>
					<Suspense>
						<BriefText fabric={fabric} line={Number(search.get("line") ?? 0)} onClose={() => flip()} />
					</Suspense>
				</aside>
			) : (
				<aside
					aria-label="Brief"
					className="w-[276px] flex-none overflow-y-auto border-r border-hair pt-4.5 pr-5 pl-5.5"
				>
					<WhoMay />
					<Settled>
						<Prose />
					</Settled>
				</aside>
			)}
			<main className="@container flex min-w-0 flex-1 flex-col pt-3.5 pr-4.5 pl-5">
				<SumsBar open={Boolean(sums)} onOpen={() => choose({ ...place, sums: sums ? undefined : "1" })} />
				{sums ? (
					<AllSums />
				) : (
					<>
						<div className="flex h-9 flex-none items-center gap-4 text-[12.5px]">
							{VIEWS.map(([value, label]) => (
								<button
									key={value}
									type="button"
									aria-pressed={view === value}
									className={view === value ? "font-bold" : "text-soft hover:text-indigo"}
									onClick={() => choose({ ...place, view: value === "weave" ? undefined : value })}
								>
									{label}
								</button>
							))}
							<input
								ref={finder}
								type="search"
								className="field ml-auto h-7 w-44 @max-[640px]:w-28"
								placeholder="Find"
								aria-label="Find in the picture"
								value={find}
								onChange={(event) => choose({ ...place, find: event.target.value || undefined })}
								onKeyDown={(event) => {
									if (event.key === "Escape") event.currentTarget.blur();
								}}
							/>
							<TopologyMenu fabric={fabric} />
							<button type="button" className="button-plain" onClick={() => setHistory(true)}>
								History
							</button>
						</div>
						{view === "racks" ? (
							<RacksView fabric={fabric} chosen={chosen} onChoose={onChoose} />
						) : weave && !empty && view === "list" ? (
							<WeaveList weave={weave} chosen={chosen} onChoose={onChoose} find={find} />
						) : weave && !empty ? (
							<>
								<WeavePicture
									weave={weave}
									chosen={chosen}
									onChoose={onChoose}
									find={find}
									touched={draft.touched}
								/>
								{draft.gone.length > 0 && (
									<p className="flex-none border-t border-dashed border-madder py-1 text-[12.5px]">
										<s className="decoration-madder">{contracted(draft.gone)}</s>{" "}
										<span className="text-soft">
											{draft.gone.length === 1 ? "goes" : "go"} with the next edition
										</span>
									</p>
								)}
							</>
						) : null}
						{weave && empty && view !== "racks" && (
							<p className="max-w-[52ch] pt-10">
								This fabric has {weave.spines.length} spines and no racks yet. Add the first racks in the
								brief, at the left; the cloth is woven as you do. Or say it in a line there, or press{" "}
								<kbd>T</kbd> and write the brief as text.
							</p>
						)}
					</>
				)}
			</main>
			<BriefMargin fabric={fabric} weave={weave} chosen={chosen} onChoose={onChoose} />
			<History fabric={fabric} open={history} onOpen={setHistory} />
			<KeysDialog
				here={[
					["E", "next word of the brief"],
					["T", "the brief as text, and back"],
					["A", "every word, defaults too"],
					["S", "all sums"],
					["W R L", "Weave, racks, list"],
					["/", "find in the picture"],
					["← ↑ ↓ →", "move through the Weave"],
					["+ − 0", "larger, smaller, the whole and back"],
					["Shift click", "choose all racks up to this one"],
					["H", "history of the draft"],
					["Esc", "choose nothing"],
				]}
			/>
		</TrialRoom>
	);
}
