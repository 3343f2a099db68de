/** Staging: the roll call by wave and rack, each switch a short line of marks; what a person must do now at the top; the log of one beside it. */
import { useState } from "react";
import { useMay } from "../api/session";
import { useOpenFabric } from "../app/open";
import { KeysDialog, useKey } from "../ui/keys";
import { useNarrow } from "../ui/narrow";
import { usePlace } from "../ui/place";
import { counted } from "../ui/words";
import { Begin } from "./begin";
import { Foot } from "./foot";
import { type Line, linesOf, sums, waveOf } from "./line";
import { SwitchMargin } from "./margin";
import { Needs } from "./needs";
import { useDrains, useKnocks, useRoll, useSimulated, useStage, useStaging, useSztp } from "./queries";
import { Rows } from "./rows";
import { Scan } from "./scan";
import { Ways } from "./ways";
import { Woven } from "./woven";

export function StagingScreen() {
	const fabric = useOpenFabric();
	const [place, go] = usePlace("switch", "scan", "new", "ways", "as");
	const roll = useRoll(fabric);
	const expected = roll.data !== undefined;
	const knocks = useKnocks(fabric, expected).data ?? [];
	const staging = useStaging(fabric, expected).data;
	const drains = useDrains(fabric, expected).data ?? [];
	const sztp = useSztp(fabric, expected).data ?? [];
	const mayUnbox = useMay("unbox", fabric.name);
	const mayStage = useMay("stage", fabric.name);
	const stage = useStage(fabric);
	const simulated = useSimulated(fabric, mayStage && staging === null).data?.may;
	const narrow = useNarrow(820);
	const [only, setOnly] = useState("");
	const lines = linesOf(roll.data ?? [], knocks, staging, drains);
	const shown = lines.filter((one) => !only || one.rack === only || one.name.includes(only));
	const chosen = lines.find((one) => one.name === place.switch);
	const step = (by: number) => {
		const at = chosen ? shown.indexOf(chosen) + by : by > 0 ? 0 : shown.length - 1;
		if (shown[at]) go({ ...place, switch: shown[at].name });
	};
	useKey("j", () => step(1));
	useKey("k", () => step(-1));
	useKey("s", () => mayUnbox && go({ ...place, scan: place.scan ? undefined : "1" }));
	const woven = place.as === "weave" && !narrow;
	useKey("w", () => go({ ...place, as: woven ? undefined : "weave" }));
	useKey("n", () => mayStage && go({ ...place, new: place.new ? undefined : "1" }));
	if (roll.error)
		return (
			<main className="flex-1 px-9 py-7">
				<h2 className="mb-2 text-[19px] font-bold tracking-tight">From a box to a switch that is checked</h2>
				<p className="max-w-[60ch] text-soft">{roll.error.message}</p>
			</main>
		);
	if (!roll.data) return <p className="p-8 text-soft">The roll is called…</p>;
	const strangers = knocks.filter((one) => one.state === "waits" && !one.expected).length;
	const sum = sums(lines, strangers);
	const running = Boolean(staging && !staging.ended_at);
	const wave = waveOf(staging);
	return (
		<>
			<div className={`flex min-w-0 flex-1 flex-col ${narrow && chosen ? "hidden" : ""}`}>
				<main className="flex min-h-0 flex-1 flex-col overflow-y-auto px-5 pt-5 pb-3 max-sm:px-3">
					<header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
						<h2 className="text-[19px] font-bold tracking-tight">{heading(lines, running, wave)}</h2>
						<p className="text-soft" aria-live="polite">
							{staging?.words || told(sum, staging?.edition)}
						</p>
						<span className="ml-auto flex gap-4">
							{!narrow && (
								<button
									type="button"
									className="button-plain"
									onClick={() => go({ ...place, as: woven ? undefined : "weave" })}
								>
									{woven ? "As a list" : "On the Weave"}
								</button>
							)}
							{mayUnbox && (
								<button
									type="button"
									className="button-plain"
									onClick={() => go({ ...place, scan: place.scan ? undefined : "1" })}
								>
									Scan boxes
								</button>
							)}
							<button
								type="button"
								className="button-plain"
								onClick={() => go({ ...place, ways: place.ways ? undefined : "1" })}
							>
								How they come in
							</button>
							<label className="flex items-baseline gap-2 text-soft">
								rack
								<input
									className="w-[9ch] border-b border-indigo-line bg-transparent text-ink"
									value={only}
									placeholder="all"
									onChange={(event) => setOnly(event.target.value.trim())}
								/>
							</label>
						</span>
					</header>
					{place.scan && mayUnbox && (
						<Scan
							lines={shown}
							from={place.switch}
							busy={stage.isPending}
							onBind={(name, scanned) => stage.mutateAsync({ do: "bind", switch: name, scanned })}
							onLeave={() => go({ ...place, scan: undefined })}
						/>
					)}
					{place.ways && (
						<Ways
							fabric={fabric}
							may={mayStage}
							busy={stage.isPending}
							onSay={(ways) =>
								stage.mutate({ do: "ways", ways }, { onSuccess: () => go({ ...place, ways: undefined }) })
							}
							onLeave={() => go({ ...place, ways: undefined })}
						/>
					)}
					{place.new && mayStage && !running && (
						<Begin
							busy={stage.isPending}
							sum={sum}
							onBegin={(wish) =>
								stage.mutate({ do: "begin", wish }, { onSuccess: () => go({ ...place, new: undefined }) })
							}
							onLeave={() => go({ ...place, new: undefined })}
						/>
					)}
					{simulated && staging === null && (
						<p className="mt-3 max-w-[76ch] border-weld border-l-[3px] pl-3 leading-snug">
							This is a demo, so that no switch will come by itself.{" "}
							<button
								type="button"
								className="button-plain"
								disabled={stage.isPending || stage.isSuccess}
								onClick={() => stage.mutate({ do: "simulate" })}
							>
								Switch on a simulated hall
							</button>
							<span className="text-soft">
								{" "}
								Its switches have nothing on them but Debian and the agent. They find Barrio by DHCP, and are
								staged with the programs of a real one in some minutes; the jobs tell how far it is.
							</span>
						</p>
					)}
					<Needs
						lines={lines}
						knocks={knocks}
						mayUnbox={mayUnbox}
						mayStage={mayStage && running}
						busy={stage.isPending}
						onDo={(deed) => stage.mutate(deed)}
						onOpen={(name) => go({ ...place, switch: name })}
					/>
					{woven ? (
						<Woven
							lines={lines}
							chosen={chosen}
							find={only}
							onChoose={(name) => go({ ...place, switch: name })}
						/>
					) : (
						<Rows
							lines={shown}
							wave={running ? wave : 0}
							chosen={place.switch ?? ""}
							onChoose={(name) => go({ ...place, switch: name === place.switch ? undefined : name })}
						/>
					)}
				</main>
				<Foot
					sum={sum}
					staging={staging}
					mayStage={mayStage}
					busy={stage.isPending}
					onDo={(deed) => stage.mutate(deed)}
					onNew={() => go({ ...place, new: "1" })}
				/>
			</div>
			<SwitchMargin
				fabric={fabric}
				line={chosen}
				staging={staging}
				drain={drains.find((one) => one.switch === chosen?.name)}
				sztp={sztp.find((one) => one.switch === chosen?.name)}
				mayUnbox={mayUnbox}
				mayStage={mayStage}
				busy={stage.isPending}
				onDo={(deed) => stage.mutate(deed)}
				onBack={narrow ? () => go({ ...place, switch: undefined }) : undefined}
			/>
			<KeysDialog
				here={[
					["J K", "the switch below, above"],
					["W", "the Weave, and back"],
					["S", "scan boxes"],
					["N", "stage"],
				]}
			/>
		</>
	);
}

function heading(lines: readonly Line[], running: boolean, wave: number): string {
	if (!running) return `${counted(lines.length, "switch", "switches")} on the roll`;
	const waves = Math.max(...lines.map((one) => one.wave));
	return wave ? `Wave ${wave} of ${waves}` : "All waves are through";
}

function told(sum: ReturnType<typeof sums>, edition: number | undefined): string {
	if (edition) return `edition ${edition}`;
	return sum.unbound
		? `${counted(sum.unbound, "has", "have")} no box yet`
		: "every one has its box; nothing was staged yet";
}
