/** The margin of a draft: who agrees, what keeps it from being sealed, and what one can do about it. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Fabric, type Failure, got } from "../api/client";
import { useMay, useSession } from "../api/session";
import { Margin } from "../ui/margin";
import { clock, counted, day } from "../ui/words";
import { type Review, type Ripple, useAct, useReview, useSince } from "./queries";
import { Said, Say } from "./saying";

export function ReviewMargin({ fabric, ripple, same }: { fabric: Fabric; ripple?: Ripple; same: boolean }) {
	const { data: review, error } = useReview(fabric);
	const maySay = useMay("say", fabric.name);
	if (error) return <Margin width={286}>{error.message}</Margin>;
	if (!review) return <Margin width={286}>…</Margin>;
	const agreed = review.voices.filter((one) => one.last && one.current && one.verdict === "agrees").length;
	const elsewhere = review.comments.filter((one) => one.thing === "whole" || !one.stands);
	return (
		<Margin width={286}>
			<div className="label-small">{review.agree ? "Agreed" : "Review"}</div>
			<h2 className="mt-px mb-2 text-[15px] font-bold">
				{review.agree ? `${agreed} of ${review.agree}` : "Nobody has to agree"}
			</h2>
			{review.voices
				.filter((one) => one.last)
				.map((one) => (
					<p key={one.id} className="mb-2">
						<b>{one.author}</b> {VERB[one.verdict]} on {day(one.said_at)}, {clock(one.said_at)}
						{one.note && `: “${one.note}”`}
						{!one.current && <Since fabric={fabric} voice={one.id} author={one.author} />}
					</p>
				))}
			{review.offer && (
				<>
					<div className="label-small mt-3">Said of the whole</div>
					<Said fabric={fabric} comments={elsewhere} all={review.comments} may={maySay} />
					{maySay && (
						<Say fabric={fabric} label="Comment on the whole" about={{ thing: "whole", at: "", stood: "" }} />
					)}
				</>
			)}
			<Checks fabric={fabric} />
			<div className="label-small mt-4">Before it may be sealed</div>
			<ul className="mt-1 mb-2 space-y-1">
				{same && <li className="text-soft">Nothing is other than in the newest edition.</li>}
				{!same &&
					review.lacking.map((words) => (
						<li key={words} className="flex gap-2 text-madder">
							<span aria-hidden="true">✗</span>
							{words}
						</li>
					))}
				{!same && !review.lacking.length && (
					<li className="flex gap-2">
						<span aria-hidden="true" className="text-moss">
							✓
						</span>
						Nothing is lacking.
					</li>
				)}
			</ul>
			{!same && <Acts fabric={fabric} review={review} />}
			{ripple && ripple.against > 0 && !same && (
				<>
					<div className="label-small mt-4">If it goes wrong</div>
					<p className="mt-1">
						Edition {ripple.against} goes back on by the same {counted(ripple.order.waves.length, "wave")} in
						reverse. Numbers that this draft took rest afterwards, as long as their pools say.
					</p>
				</>
			)}
			<Rule fabric={fabric} review={review} />
		</Margin>
	);
}

/** The findings of the draft, and what an independent reader finds in its files. */
function Checks({ fabric }: { fabric: Fabric }) {
	const read = useMutation<{ switches: number; findings: { message: string }[] }, Failure>({
		mutationFn: () =>
			got(client.GET("/api/v1/fabrics/{name}/readback", { params: { path: { name: fabric.name } } })),
	});
	return (
		<>
			<div className="label-small mt-4">Checks</div>
			{fabric.findings.length ? (
				<ul className="mt-1 space-y-1">
					{fabric.findings.slice(0, 5).map((one) => (
						<li key={`${one.code} ${one.message}`} className="border-l-4 border-weld pl-2">
							{one.message}
						</li>
					))}
					{fabric.findings.length > 5 && <li className="text-soft">and {fabric.findings.length - 5} more</li>}
				</ul>
			) : (
				<p className="mt-1">No finding.</p>
			)}
			{read.data ? (
				read.data.findings.length ? (
					<ul className="mt-1 space-y-1">
						{read.data.findings.slice(0, 5).map((one) => (
							<li key={one.message} className="border-l-4 border-madder pl-2">
								{one.message}
							</li>
						))}
					</ul>
				) : (
					<p>Read back: {counted(read.data.switches, "switch", "switches")}, nothing that was not meant.</p>
				)
			) : (
				<button
					type="button"
					className="button-plain"
					disabled={read.isPending}
					onClick={() => read.mutate()}
				>
					{read.isPending ? "All files are read…" : "Read all files back"}
				</button>
			)}
			{read.error && <p className="text-madder">{read.error.message}</p>}
		</>
	);
}

const VERB = { agrees: "agreed", asks: "asked for changes", declines: "declined" } as const;

/** What is new since somebody spoke. */
function Since({ fabric, voice, author }: { fabric: Fabric; voice: number; author: string }) {
	const { data } = useSince(fabric, voice);
	if (!data) return null;
	const words = data.said.length ? data.said.map((one) => one.path).join(", ") : "no word of the brief";
	const files = data.changed + data.new + data.gone;
	return (
		<span className="block text-soft">
			Of what stood then. Since: {words}
			{files ? `, on ${counted(files, "switch", "switches")}` : ", and no file of any switch"}. {author} has
			to look again.
		</span>
	);
}

function Acts({ fabric, review }: { fabric: Fabric; review: Review }) {
	const act = useAct(fabric);
	const me = useSession().data?.called;
	const mayEdit = useMay("edit", fabric.name);
	const mayAgree = useMay("agree", fabric.name);
	const maySeal = useMay("seal", fabric.name);
	const [note, setNote] = useState("");
	const [despite, setDespite] = useState("");
	const mine = me !== undefined && review.editors.includes(me);
	const say = (verdict: "agrees" | "asks" | "declines") =>
		act.mutate({ kind: "say", verdict, note, seen: review.seen }, { onSuccess: () => setNote("") });
	return (
		<>
			{mayEdit && <Offer key={review.offer?.title ?? ""} fabric={fabric} review={review} />}
			{review.offer && mayAgree && review.agree > 0 && (
				<div className="mt-3">
					{mine ? (
						<p className="text-soft">You changed this draft, so somebody else has to agree to it.</p>
					) : (
						<>
							<textarea
								aria-label="With these words"
								placeholder="with these words"
								className="field mb-2 h-14 w-full"
								value={note}
								onChange={(event) => setNote(event.target.value)}
							/>
							<div className="flex flex-wrap gap-x-4 gap-y-1">
								<button
									type="button"
									className="button-main"
									disabled={act.isPending}
									onClick={() => say("agrees")}
								>
									Agree
								</button>
								<button
									type="button"
									className="button-plain"
									disabled={act.isPending}
									onClick={() => say("asks")}
								>
									Ask for changes
								</button>
								<button
									type="button"
									className="button-plain"
									disabled={act.isPending}
									onClick={() => say("declines")}
								>
									Decline
								</button>
							</div>
						</>
					)}
				</div>
			)}
			{maySeal && review.despite && (
				<div className="mt-3 border-l-4 border-weld pl-2.5">
					<p className="mb-1.5">The change drill showed more than Ripple said: {review.despite}.</p>
					<textarea
						aria-label="Why it is sealed all the same"
						placeholder="sealed all the same, because"
						className="field h-14 w-full"
						value={despite}
						onChange={(event) => setDespite(event.target.value)}
					/>
				</div>
			)}
			{maySeal && (
				<button
					type="button"
					className="button-main mt-3"
					disabled={act.isPending || review.lacking.length > 0 || (review.despite !== "" && !despite.trim())}
					onClick={() => act.mutate({ kind: "seal", despite: despite.trim() })}
				>
					{act.isPending && act.variables?.kind === "seal" ? "It is sealed…" : "Seal the edition"}
				</button>
			)}
		</>
	);
}

function Offer({ fabric, review }: { fabric: Fabric; review: Review }) {
	const act = useAct(fabric);
	const [title, setTitle] = useState(review.offer?.title ?? "");
	const [why, setWhy] = useState(review.offer?.why ?? "");
	const [open, setOpen] = useState(!review.offer);
	if (!open)
		return (
			<div className="flex gap-4">
				<button type="button" className="button-plain" onClick={() => setOpen(true)}>
					Reword the offer
				</button>
				<button
					type="button"
					className="button-plain"
					disabled={act.isPending}
					onClick={() => act.mutate({ kind: "withdraw" })}
				>
					Take it back
				</button>
			</div>
		);
	return (
		<form
			className="space-y-2"
			onSubmit={(event) => {
				event.preventDefault();
				act.mutate({ kind: "offer", title, why }, { onSuccess: () => setOpen(false) });
			}}
		>
			<input
				aria-label="What it is, in a sentence"
				placeholder="What it is, in a sentence"
				className="field w-full"
				maxLength={200}
				value={title}
				onChange={(event) => setTitle(event.target.value)}
			/>
			<textarea
				aria-label="Why"
				placeholder="Why"
				className="field h-16 w-full"
				maxLength={4000}
				value={why}
				onChange={(event) => setWhy(event.target.value)}
			/>
			<button type="submit" className="button-main" disabled={!title.trim() || act.isPending}>
				{review.offer ? "Reword the offer" : "Offer for review"}
			</button>
		</form>
	);
}

/** Who must agree; a keeper can say otherwise. */
function Rule({ fabric, review }: { fabric: Fabric; review: Review }) {
	const may = useMay("rule", fabric.name);
	const act = useAct(fabric);
	return (
		<>
			<div className="label-small mt-4">The rule</div>
			<p className="mt-1 leading-relaxed">
				{may ? (
					<select
						aria-label="How many must agree"
						className="field h-7 py-0"
						value={review.agree}
						disabled={act.isPending}
						onChange={(event) =>
							act.mutate({
								kind: "rule",
								agree: Number(event.target.value),
								people: review.people,
								rehearsed: review.rehearsed,
							})
						}
					>
						{[0, 1, 2, 3, 4].map((count) => (
							<option key={count} value={count}>
								{count === 0 ? "nobody" : count}
							</option>
						))}
					</select>
				) : (
					<b>{review.agree || "Nobody"}</b>
				)}{" "}
				must agree, never who changed the draft.{" "}
				<span className="text-soft">
					{review.may_agree.length
						? `${review.may_agree.slice(0, 4).join(", ")}${review.may_agree.length > 4 ? " and others" : ""} may.`
						: "Nobody else may yet."}
				</span>
			</p>
			{may ? (
				<label className="mt-1 flex items-center gap-2">
					<input
						type="checkbox"
						checked={review.rehearsed}
						disabled={act.isPending}
						onChange={(event) =>
							act.mutate({
								kind: "rule",
								agree: review.agree,
								people: review.people,
								rehearsed: event.target.checked,
							})
						}
					/>
					A rehearsal of it must say yes to every question.
				</label>
			) : (
				review.rehearsed && <p className="mt-1">A rehearsal of it must say yes to every question.</p>
			)}
		</>
	);
}
