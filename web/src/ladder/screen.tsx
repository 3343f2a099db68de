/** The Ladder as one picture: rungs down, settings across. What holds is solid, what is beaten is struck, with who beat it. */
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { useSwitches } from "../api/queries";
import { useOpenFabric } from "../app/open";
import { KeysDialog, useKey } from "../ui/keys";
import { usePlace } from "../ui/place";
import { counted } from "../ui/words";
import { rungName, Says } from "./cell";
import { LadderMargin } from "./margin";
import { type RungSaid, type SettingRow, useSettings } from "./queries";

export function LadderScreen() {
	const fabric = useOpenFabric();
	const settings = useSettings(fabric.name, fabric.version).data;
	const [place, goTo] = usePlace("rung", "setting");
	const [added, setAdded] = useState<string[]>([]);
	if (!settings) return <div className="p-8 text-soft">Opening…</div>;
	const first = settings[0]?.climb.rungs ?? [];
	const rungs = [
		...first.map((one) => one.rung),
		...added.filter((one) => !first.some((row) => row.rung === one)),
	];
	const rung = place.rung && rungs.includes(place.rung) ? place.rung : "fabric";
	const setting = settings.find((one) => one.name === place.setting) ?? (settings[0] as SettingRow);
	const saidOn = (row: SettingRow, name: string) => row.climb.rungs.find((one) => one.rung === name);
	const go = (down: number, across: number) => {
		const nextRung = rungs[Math.max(0, Math.min(rungs.length - 1, rungs.indexOf(rung) + down))] ?? rung;
		const at = settings.indexOf(setting) + across;
		const next = settings[Math.max(0, Math.min(settings.length - 1, at))] ?? setting;
		goTo({ rung: nextRung, setting: next.name });
	};
	return (
		<>
			<main className="flex min-w-0 flex-1 flex-col">
				<div className="flex items-baseline gap-4 border-b border-hair px-5 pt-3 pb-2.5">
					<h1 className="text-[17px] font-bold">Ladder</h1>
					<span className="text-soft">
						{counted(settings.length, "setting")} · the closest rung that speaks wins
					</span>
					<span className="ml-auto flex items-baseline gap-3">
						<AddRung
							known={rungs}
							onAdd={(name) => {
								setAdded([...added, name]);
								goTo({ rung: name, setting: setting.name });
							}}
						/>
						<Link className="button-plain" to={`/f/${fabric.name}/configs`}>
							Files
						</Link>
					</span>
				</div>
				<Picture
					settings={settings}
					rungs={rungs}
					rung={rung}
					setting={setting}
					onGo={go}
					onChoose={goTo}
					saidOn={saidOn}
				/>
			</main>
			<LadderMargin
				setting={setting}
				rung={rung}
				said={saidOn(setting, rung)}
				entries={settings.filter((one) => saidOn(one, rung)?.says || saidOn(one, rung)?.hold).length}
			/>
			<KeysDialog
				here={[
					["↑ ↓ ← →", "another rung, another setting"],
					["Enter", "say something there"],
				]}
			/>
		</>
	);
}

interface PictureProps {
	settings: SettingRow[];
	rungs: string[];
	rung: string;
	setting: SettingRow;
	onGo: (down: number, across: number) => void;
	onChoose: (place: { rung: string; setting: string }) => void;
	saidOn: (row: SettingRow, rung: string) => RungSaid | undefined;
}

function Picture({ settings, rungs, rung, setting, onGo, onChoose, saidOn }: PictureProps) {
	const box = useRef<HTMLDivElement>(null);
	// biome-ignore lint/correctness/useExhaustiveDependencies: what is chosen is brought into view when another is
	useEffect(() => {
		box.current
			?.querySelector("[aria-pressed=true]")
			?.scrollIntoView?.({ block: "nearest", inline: "nearest" });
	}, [rung, setting.name]);
	useKey("ArrowDown", () => onGo(1, 0));
	useKey("ArrowUp", () => onGo(-1, 0));
	useKey("ArrowRight", () => onGo(0, 1));
	useKey("ArrowLeft", () => onGo(0, -1));
	useKey("Enter", (event) => {
		event.preventDefault();
		document.getElementById("ladder-value")?.focus();
	});
	return (
		<div
			ref={box}
			className="min-h-0 flex-1 scroll-pl-[150px] scroll-pt-[54px] scroll-pb-[80px] overflow-auto"
		>
			<table
				className="w-full table-fixed border-separate border-spacing-0"
				aria-label="Rungs and settings"
				style={{ minWidth: 150 + 98 * settings.length }}
			>
				<thead className="sticky top-0 z-10 bg-paper">
					<tr>
						<th className="sticky left-0 z-10 w-[150px] border-r border-b border-hair bg-paper" />
						{settings.map((one) => (
							<th
								key={one.name}
								title={one.words}
								scope="col"
								className={`border-b border-l border-hair px-2 py-2 text-left align-bottom font-normal ${one === setting ? "bg-chosen" : ""}`}
							>
								<b className="mono block truncate text-[12px]">{one.name.split(".").at(-1)}</b>
								<small className="text-[11px] text-soft">{one.unit || one.kind.split(" ").at(-1)}</small>
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{rungs.map((name) => (
						<tr key={name}>
							<th
								scope="row"
								className={`sticky left-0 z-[5] border-r border-b border-hair bg-paper py-1.5 pr-2 pl-5 text-left align-top font-normal ${name === rung ? "text-indigo" : ""}`}
							>
								<b className="block truncate font-[560]">{rungName(name)}</b>
								<small className="text-[11px] text-soft">
									{counted(settings[0] ? (saidOn(settings[0], name)?.on ?? 0) : 0, "switch", "switches")}
								</small>
							</th>
							{settings.map((one) => {
								const said = saidOn(one, name);
								const chosen = name === rung && one === setting;
								return (
									<td key={one.name} className="h-px border-b border-l border-hair p-0 align-top">
										<button
											type="button"
											aria-pressed={chosen}
											aria-label={`${one.name}, ${rungName(name)}`}
											onClick={() => onChoose({ rung: name, setting: one.name })}
											className={`flex h-full min-h-[46px] w-full flex-col px-2 py-1.5 text-left text-[12px] leading-snug hover:bg-chosen ${chosen ? "bg-chosen outline-2 -outline-offset-2 outline-indigo" : ""}`}
										>
											{said && <Says said={said} />}
										</button>
									</td>
								);
							})}
						</tr>
					))}
					<tr>
						<th
							scope="row"
							className="sticky bottom-0 left-0 z-[6] border-t border-r border-hair bg-raised px-5 py-2 text-left align-top font-normal"
						>
							<b className="font-[560]">In the end</b>
						</th>
						{settings.map((one) => (
							<td
								key={one.name}
								className="sticky bottom-0 border-t border-l border-hair bg-raised px-2 py-2 align-top text-[12px]"
							>
								{one.climb.outcomes.slice(0, 4).map(({ words, on }) => (
									<span key={words} className="line-clamp-2 leading-snug" title={`${words} on ${on}`}>
										<small className="mono text-soft">{on} ×</small> {words}
									</span>
								))}
								{one.climb.outcomes.length > 4 && (
									<small className="text-soft">and {one.climb.outcomes.length - 4} more</small>
								)}
							</td>
						))}
					</tr>
				</tbody>
			</table>
		</div>
	);
}

/** A rung that says nothing yet: a rack, or one switch. */
function AddRung({ known, onAdd }: { known: string[]; onAdd: (rung: string) => void }) {
	const fabric = useOpenFabric();
	const switches = useSwitches(fabric.name, fabric.version).data ?? [];
	const [words, setWords] = useState("");
	const rungs = new Map<string, string>();
	for (const one of switches) {
		if (one.rack) rungs.set(`rack ${one.rack}`, `rack ${one.rack}`);
		rungs.set(one.name, `switch ${one.key}`);
	}
	const found = rungs.get(words.trim()) ?? rungs.get(`rack ${words.trim()}`);
	return (
		<form
			onSubmit={(event) => {
				event.preventDefault();
				if (!found || known.includes(found)) return;
				onAdd(found);
				setWords("");
			}}
		>
			<input
				className="field h-7 w-44"
				aria-label="Another rung"
				placeholder="a rack or a switch…"
				list="rungs"
				value={words}
				onChange={(event) => setWords(event.target.value)}
			/>
			<datalist id="rungs">
				{[...rungs.keys()].map((one) => (
					<option key={one} value={one} />
				))}
			</datalist>{" "}
			<button type="submit" className="button-plain" disabled={!found || known.includes(found)}>
				Add the rung
			</button>
		</form>
	);
}
