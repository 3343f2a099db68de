/** Jobs: each a thread that is drawn as far as it is done; what came of it hangs at its end. */
import { client, got } from "../api/client";
import { useDownload } from "../api/downloads";
import { isOver, type Job, result, useJobAct, useJobs } from "../api/jobs";
import { useSession } from "../api/session";
import { Screen } from "../app/screen";
import { usePlace } from "../ui/place";
import { clock, day, number } from "../ui/words";

export function JobsScreen() {
	const { data: jobs, error } = useJobs();
	const [{ job: chosen }, go] = usePlace("job");
	return (
		<Screen title="Jobs">
			<main className="overflow-y-auto px-12 py-8">
				<div className="mx-auto max-w-[1080px]">
					<h1 className="mb-4 text-[22px] font-bold tracking-tight">Jobs</h1>
					{error && <p className="text-madder">{error.message}</p>}
					{jobs?.length === 0 && (
						<p className="max-w-[60ch] border-t border-hair py-6">
							Nothing was left to be done. Bundles, sheets, reading all files back, and holding them to the
							programs that they are for go on here while you do something else; ask for them in the box on{" "}
							<kbd>Ctrl K</kbd>.
						</p>
					)}
					<ol aria-label="Jobs" className="border-t border-hair">
						{jobs?.map((job) => (
							<Row
								key={job.id}
								job={job}
								open={String(job.id) === chosen}
								onOpen={() => go({ job: String(job.id) === chosen ? undefined : String(job.id) })}
							/>
						))}
					</ol>
				</div>
			</main>
		</Screen>
	);
}

const WORD: Record<string, string> = {
	waiting: "waits",
	working: "under way",
	done: "done",
	failed: "failed",
	stopped: "stopped",
};
const TONE: Record<string, string> = { done: "text-moss", failed: "text-madder", stopped: "text-soft" };

function Row({ job, open, onOpen }: { job: Job; open: boolean; onOpen: () => void }) {
	const me = useSession().data;
	const download = useDownload();
	const params = { path: { job: job.id } };
	const stop = useJobAct(() => got(client.POST("/api/v1/jobs/{job}/stop", { params })));
	const retry = useJobAct(() => got(client.POST("/api/v1/jobs/{job}/retry", { params })));
	return (
		<li className="border-b border-hair py-2.5">
			<div className="flex items-center gap-5">
				<button type="button" aria-expanded={open} className="w-56 flex-none text-left" onClick={onOpen}>
					<b className="font-[560]">
						{job.kind} of {job.fabric}
					</b>
					<span className="block text-[11.8px] text-soft">
						{day(job.asked_at)}, {clock(job.asked_at)}
						{job.author !== me?.called && `, ${job.author}`}
					</span>
				</button>
				<Thread job={job} />
				<span className={`w-64 flex-none ${TONE[job.state] ?? ""}`}>
					{WORD[job.state] ?? job.state}
					{job.words && (
						<span className="block truncate text-[11.8px] text-soft" title={job.words}>
							{job.words}
						</span>
					)}
				</span>
				<span className="w-20 flex-none text-right">
					{!isOver(job) && (
						<button
							type="button"
							className="button-plain"
							disabled={stop.isPending}
							onClick={() => stop.mutate(undefined)}
						>
							Stop
						</button>
					)}
					{(job.state === "failed" || job.state === "stopped") && (
						<button
							type="button"
							className="button-plain"
							disabled={retry.isPending}
							onClick={() => retry.mutate(undefined)}
						>
							Try again
						</button>
					)}
					{job.result && (
						<button
							type="button"
							className="button-plain"
							aria-label={`Take ${job.result}`}
							onClick={() => void download(result(job.id))}
						>
							Take it
						</button>
					)}
				</span>
			</div>
			{open && (
				<ol aria-label="Log" className="mono mt-1.5 border-l-4 border-hair pl-3 text-soft">
					{(job.log.length ? job.log : ["nothing yet"]).map((line, at) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: lines of a log are only ever added
						<li key={at}>{line}</li>
					))}
				</ol>
			)}
		</li>
	);
}

/** A job as a thread: drawn as far as it is done, hollow where it still has to go. */
function Thread({ job }: { job: Job }) {
	const share = job.state === "done" ? 1 : job.of ? job.done / job.of : 0;
	const said = job.of ? `${number(job.done)} of ${number(job.of)}` : (WORD[job.state] ?? job.state);
	return (
		<div
			role="progressbar"
			aria-label={`${job.kind} of ${job.fabric}`}
			aria-valuenow={Math.round(share * 100)}
			aria-valuetext={said}
			className="relative h-2.5 min-w-0 flex-1 border border-hair"
		>
			<div
				className={
					job.state === "done" ? "h-full bg-moss" : isOver(job) ? "h-full bg-hair" : "stitched h-full"
				}
				style={{ width: `${share * 100}%` }}
			/>
		</div>
	);
}
