/** The office: what holds for every fabric. Its own targets are written here, and tried on a switch while one types. */
import * as Popover from "@radix-ui/react-popover";
import { useState } from "react";
import type { Fault } from "../api/client";
import { useMay } from "../api/session";
import { Screen } from "../app/screen";
import { usePlace } from "../ui/place";
import { counted, day } from "../ui/words";
import { ofTarget, SAID, useCopy } from "./copy";
import { Editor } from "./editor";
import { type Office, takeEdition, useOffice, usePastOffice, useTemplateWords } from "./queries";
import { Saving } from "./saving";
import { Tree } from "./tree";
import { TrialPane } from "./trial";

export function OfficeScreen() {
	const office = useOffice();
	return (
		<Screen title="Office">
			{office.error && <p className="p-8 text-madder">{office.error.message}</p>}
			{office.data && <Desk office={office.data} />}
		</Screen>
	);
}

function Desk({ office }: { office: Office }) {
	const { copy, dirty, write, take } = useCopy(office);
	const [{ file = "" }, go] = usePlace("file");
	const [tried, setTried] = useState<readonly Fault[]>([]);
	const [refused, setRefused] = useState<readonly Fault[]>([]);
	const may = useMay("office");
	const words = useTemplateWords().data;
	const path = file in copy.files ? file : (Object.keys(copy.files).find((one) => one.endsWith(".j2")) ?? "");
	const target = path.split("/")[1] ?? "";
	return (
		<div className="flex min-h-0">
			<Tree
				office={office}
				files={copy.files}
				dirty={dirty}
				path={path}
				may={may}
				onOpen={(next) => go({ file: next })}
				onWrite={write}
			/>
			<main className="flex min-w-0 flex-1 flex-col">
				{dirty.length > 0 && (
					<Saving office={office} copy={copy} dirty={dirty} onTake={take} onFaults={setRefused} />
				)}
				{path ? (
					<>
						<div className="flex items-baseline gap-4 border-b border-hair px-4 py-2">
							<h1 className="text-[15px] font-bold">{path.split("/").at(-1)}</h1>
							<span className="text-soft">
								{path === SAID
									? "what holds for every fabric, and variables of your own"
									: path.endsWith(".yaml")
										? `what ${target} writes, and how it is read back`
										: `a template of ${target}`}
							</span>
							<span className="ml-auto" />
							<Past office={office} onTake={(files) => take({ number: office.number, files })} />
							{may && path.endsWith(".j2") && (
								<button type="button" className="button-plain" onClick={() => write(path, null)}>
									Take the file out
								</button>
							)}
						</div>
						<Editor
							key={path}
							path={path}
							text={copy.files[path] ?? ""}
							faults={path === SAID ? refused : tried}
							words={words}
							readOnly={!may}
							onText={(text) => write(path, text)}
						/>
					</>
				) : (
					<Nothing />
				)}
			</main>
			{target && may && (
				<TrialPane target={target} files={ofTarget(copy.files, target)} onFaults={setTried} />
			)}
		</div>
	);
}

function Nothing() {
	return (
		<div className="max-w-[60ch] px-8 py-6">
			<h1 className="mb-2 text-[22px] font-bold tracking-tight">Languages of your own</h1>
			<p>
				Switches that do not run Linux are written for here: a target is a manifest and templates, fed by the
				same model as the one that ships. Name a target on the left; it is tried on a switch while you write,
				and a fabric uses it by <span className="mono">target:</span> in its brief, for all switches or on a
				rung.
			</p>
		</div>
	);
}

function Past({ office, onTake }: { office: Office; onTake: (files: Record<string, string>) => void }) {
	const [open, setOpen] = useState(false);
	const past = usePastOffice(open).data ?? [];
	return (
		<Popover.Root open={open} onOpenChange={setOpen}>
			<Popover.Trigger className="button-plain">
				{office.number ? `edition ${office.number}` : "never saved"}
			</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					align="end"
					sideOffset={4}
					className="z-30 max-h-[60vh] w-[360px] overflow-y-auto rounded-[4px] border border-hair bg-raised p-3 shadow-md"
				>
					<h2 className="mb-1 font-bold">Editions of the office</h2>
					<ul>
						{past.map((one) => (
							<li key={one.number} className="flex items-baseline gap-3 border-t border-hair py-1.5">
								<b>{one.number}</b>
								<span className="min-w-0 flex-1">
									{one.note || "no reason given"}
									<span className="block text-[12px] text-soft">
										{one.author}, {day(one.saved_at)}, {counted(one.files, "file")}
									</span>
								</span>
								{one.number !== office.number && (
									<button
										type="button"
										className="button-plain"
										onClick={async () => {
											onTake((await takeEdition(one.number)).files);
											setOpen(false);
										}}
									>
										Take it up again
									</button>
								)}
							</li>
						))}
					</ul>
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}
