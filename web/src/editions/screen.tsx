/** Editions: time down the page; what is open, as a letter; in the margin, who agreed. */
import { useOpenFabric } from "../app/open";
import { KeysDialog, useKey } from "../ui/keys";
import { usePlace } from "../ui/place";
import { clock, day } from "../ui/words";
import { Elsewhere } from "./elsewhere";
import { Letter } from "./letter";
import { EditionMargin } from "./margin";
import { type Sides, useEditions, useReview, useRipple } from "./queries";
import { ReviewMargin } from "./review";
import { Timeline } from "./timeline";

export function EditionsScreen() {
	const fabric = useOpenFabric();
	const [place, go] = usePlace("of", "against", "with", "files");
	const editions = useEditions(fabric.name).data;
	const { data: review } = useReview(fabric);
	const drafted = useRipple(fabric).data;
	const open = Number(place.of ?? 0);
	const held = place.against === undefined ? undefined : Number(place.against);
	const numbers = [0, ...(editions ?? []).map((one) => one.number)];
	const show = (of: number, against?: number) =>
		go({
			of: of ? String(of) : undefined,
			against: against === undefined ? undefined : String(against),
			files: place.files,
		});
	const step = (by: number) => {
		const at = numbers.indexOf(open) + by;
		if (numbers[at] !== undefined) show(numbers[at]);
	};
	useKey("j", () => step(1));
	useKey("k", () => step(-1));
	if (!editions) return <p className="p-8 text-soft">The editions are read…</p>;
	const newest = editions[0]?.number ?? 0;
	const edition = editions.find((one) => one.number === open);
	const missing = open > 0 && !edition;
	const sides: Sides = { ...(open ? { of: open } : {}), ...(held === undefined ? {} : { against: held }) };
	const same =
		newest > 0 &&
		drafted !== undefined &&
		drafted.against === newest &&
		!drafted.said.length &&
		drafted.changed + drafted.new + drafted.gone === 0;
	const offer = review?.offer;
	const against = held ?? (open ? open - 1 : newest);
	const beside: [string, string] | undefined = place.with
		? [place.with, open ? `edition ${open}` : "draft"]
		: against
			? [`edition ${against}`, open ? `edition ${open}` : "draft"]
			: undefined;
	const shown = {
		apart: beside,
		files: Boolean(place.with) || place.files === "1",
		onFiles: (files: boolean) => go({ ...place, with: undefined, files: files ? "1" : undefined }),
	};
	const versus = against ? `held against edition ${against}` : "the first";
	return (
		<>
			<Timeline
				editions={editions}
				draft={same ? "" : (offer?.title ?? fabric.note)}
				state={same ? "nothing is changed" : offer ? "offered for review" : "not offered yet"}
				open={missing ? -1 : open}
				against={against}
				onOpen={(number) => show(number)}
				onAgainst={(number) => show(open, number)}
			>
				<Elsewhere
					fabric={fabric}
					chosen={place.with ?? ""}
					onChoose={(side) => go({ ...place, with: side || undefined })}
				/>
			</Timeline>
			{missing ? (
				<main className="flex-1 p-8">
					<p className="mb-2">There is no edition {open} of this fabric.</p>
					<button type="button" className="button-plain" onClick={() => show(0)}>
						See the draft
					</button>
				</main>
			) : edition ? (
				<Letter
					fabric={fabric}
					sides={sides}
					title={edition.title}
					byline={`edition ${edition.number}, ${day(edition.sealed_at)}, ${clock(edition.sealed_at)}; ${versus}`}
					why={edition.why}
					comments={[]}
					commentable={false}
					{...shown}
				/>
			) : (
				<Letter
					fabric={fabric}
					sides={sides}
					title={offer?.title ?? (same ? "The draft is as the newest edition" : "What the draft changes")}
					byline={
						offer
							? `${offer.author} asks, for edition ${newest + 1}, ${day(offer.offered_at)} ${clock(offer.offered_at)}`
							: `for edition ${newest + 1}, ${versus}`
					}
					why={offer?.why ?? ""}
					comments={review?.comments ?? []}
					commentable={Boolean(offer)}
					{...shown}
				/>
			)}
			{edition ? (
				<EditionMargin fabric={fabric} edition={edition} newest={edition.number === newest} />
			) : (
				!missing && <ReviewMargin fabric={fabric} ripple={drafted} same={same} />
			)}
			<KeysDialog
				here={[
					["J K", "the edition below, above"],
					["M", "fold the margin"],
				]}
			/>
		</>
	);
}
