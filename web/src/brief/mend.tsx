/** A fabric whose brief cannot be read any more: its text, what is wrong with it line by line, and the ways out. */
import { useState } from "react";
import { useNavigate } from "react-router";
import type { DraftText } from "../api/client";
import { briefText, useDownload } from "../api/downloads";
import { useChange } from "../api/edits";
import { useText } from "../api/queries";
import { DeleteFabric } from "../fabrics/delete";
import { Home } from "../ui/home";
import { counted } from "../ui/words";
import { History } from "./history";
import { TrialRoom } from "./sums/trial";
import { BriefText } from "./text";

export default function Mend({ name }: { name: string }) {
	const { data, error } = useText(name);
	return (
		<div className="grid h-dvh grid-rows-[60px_1fr]">
			<header className="flex items-end gap-6.5 border-b border-hair px-5">
				<Home />
				<div className="truncate pb-3.5 text-soft">
					<b className="font-semibold text-ink">{data?.title || name}</b>, to be mended
				</div>
			</header>
			{error && <p className="p-8 text-madder">{error.message}</p>}
			{data && <Bench draft={data} />}
		</div>
	);
}

function Bench({ draft }: { draft: DraftText }) {
	const [line, setLine] = useState(draft.faults[0]?.line ?? 0);
	const [history, setHistory] = useState(false);
	const change = useChange(draft.name);
	const download = useDownload();
	const navigate = useNavigate();
	return (
		<TrialRoom>
			<div className="flex min-h-0 min-w-0">
				<section aria-label="Brief as text" className="flex min-w-0 flex-1 flex-col px-5 pt-3.5">
					<BriefText fabric={draft} line={line} />
				</section>
				<aside
					aria-label="What is wrong"
					className="w-[360px] flex-none overflow-y-auto border-l border-hair px-5 pt-4"
				>
					<h1 className="mb-2 text-[15px] font-bold">This brief cannot be read</h1>
					<p className="mb-3 text-soft">
						It was saved by an earlier Barrio, or drew from something that is no longer there. Its numbers are
						held as before. {counted(draft.faults.length, "fault")} to mend; then save.
					</p>
					<ul className="mb-5">
						{draft.faults.map((fault) => (
							<li key={`${fault.path} ${fault.message}`} className="mb-2 border-l-4 border-madder pl-2.5">
								{fault.line ? (
									<button type="button" className="button-plain" onClick={() => setLine(fault.line ?? 0)}>
										Line {fault.line}
									</button>
								) : null}{" "}
								{fault.message}
							</li>
						))}
					</ul>
					<h2 className="mb-1.5 font-bold">Other ways out</h2>
					<ul className="flex flex-col items-start gap-1.5">
						{draft.undo && (
							<li>
								<button
									type="button"
									className="button-plain"
									disabled={change.isPending}
									onClick={() => change.mutate({ kind: "undo" })}
								>
									Undo “{draft.undo}”
								</button>
							</li>
						)}
						<li>
							<button type="button" className="button-plain" onClick={() => setHistory(true)}>
								See its history
							</button>
						</li>
						<li>
							<button
								type="button"
								className="button-plain"
								onClick={() => void download(briefText(draft.name))}
							>
								Take the text away
							</button>
						</li>
						<li className="-mx-3">
							<DeleteFabric fabric={draft} onDone={() => navigate("/")} />
						</li>
					</ul>
				</aside>
			</div>
			<History fabric={draft} open={history} onOpen={setHistory} />
		</TrialRoom>
	);
}
