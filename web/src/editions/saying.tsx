/** The head of a part of a letter, and what is said of a thing in it. */
import { type ReactNode, useState } from "react";
import type { Fabric } from "../api/client";
import { clock, day } from "../ui/words";
import { type Comment, useAct } from "./queries";

export const Head = ({ children }: { children: ReactNode }) => (
	<h3 className="mt-5 mb-1.5 label-small font-semibold">{children}</h3>
);

type About = Pick<Comment, "thing" | "at" | "stood"> & { answers?: number };

/** A box to say something of a thing. */
export function Say({ fabric, about, label }: { fabric: Fabric; about: About; label: string }) {
	const [words, setWords] = useState("");
	const act = useAct(fabric);
	return (
		<form
			className="mt-1 flex gap-2"
			onSubmit={(event) => {
				event.preventDefault();
				if (words.trim()) act.mutate({ kind: "comment", ...about, words }, { onSuccess: () => setWords("") });
			}}
		>
			<input
				className="field h-7 min-w-0 flex-1"
				aria-label={label}
				placeholder={about.answers ? "answer" : "comment"}
				value={words}
				onChange={(event) => setWords(event.target.value)}
			/>
			<button type="submit" className="button-plain" disabled={!words.trim() || act.isPending}>
				{about.answers ? "Answer" : "Comment"}
			</button>
		</form>
	);
}

/** What was said of a thing, with the answers. */
export function Said({
	fabric,
	comments,
	all,
	may,
}: {
	fabric: Fabric;
	comments: readonly Comment[];
	all: readonly Comment[];
	may: boolean;
}) {
	const act = useAct(fabric);
	const [answering, setAnswering] = useState(0);
	return (
		<>
			{comments
				.filter((one) => one.answers === null)
				.map((one) => (
					<div key={one.id} className="mb-1.5">
						<Words comment={one} />
						{all
							.filter((other) => other.answers === one.id)
							.map((other) => (
								<div key={other.id} className="mt-1 ml-3 border-l-2 border-hair pl-2">
									<Words comment={other} />
								</div>
							))}
						{may && (
							<div className="flex gap-3">
								<button
									type="button"
									className="button-plain"
									onClick={() => setAnswering(answering === one.id ? 0 : one.id)}
								>
									answer
								</button>
								<button
									type="button"
									className="button-plain"
									disabled={act.isPending}
									onClick={() => act.mutate({ kind: "settle", comment: one.id, settled: !one.settled_at })}
								>
									{one.settled_at ? "open again" : "settled"}
								</button>
							</div>
						)}
						{answering === one.id && (
							<Say
								fabric={fabric}
								label={`Answer ${one.author}`}
								about={{ thing: "whole", at: "", stood: "", answers: one.id }}
							/>
						)}
					</div>
				))}
		</>
	);
}

function Words({ comment }: { comment: Comment }) {
	return (
		<>
			<b className="font-semibold">{comment.author}</b>{" "}
			<span className="text-soft">
				{day(comment.said_at)}, {clock(comment.said_at)}
				{comment.settled_by && `, settled by ${comment.settled_by}`}
				{!comment.stands && `; what it was about is no more: ${comment.stood}`}
			</span>
			<p className={`whitespace-pre-wrap ${comment.settled_at ? "text-soft" : ""}`}>{comment.words}</p>
		</>
	);
}
