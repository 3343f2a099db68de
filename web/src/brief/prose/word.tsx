/** A word of the brief that is a control: click it, type over it, or take what it offers, each with its effect. */
import * as Popover from "@radix-ui/react-popover";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { client, type Fabric, got, type Option } from "../../api/client";
import { useChange } from "../../api/edits";
import { useOpenFabric } from "../../app/open";
import { useOthers, useWord } from "../../app/present";
import { Refusal } from "../../app/refusal";
import { counted, ratio } from "../../ui/words";
import { useTrying } from "../sums/trial";

interface Choice {
	value: unknown;
	label: string;
}

interface Props {
	path: string;
	value: unknown;
	children?: ReactNode;
	/** What the word says about a value: “4 spines”. Also the name of the change. */
	say: (value: unknown) => string;
	choices?: Choice[];
	/** What a typed text means; left out when only the choices can be. */
	parse?: (text: string) => unknown;
	typed?: string;
	/** Other fields that a choice changes with it. */
	also?: (value: unknown) => [string, unknown][];
	/** Whether the sums are worth showing beside each choice. */
	weighed?: boolean;
}

export function Word({
	path,
	value,
	children,
	say,
	choices = [],
	parse,
	typed,
	also,
	weighed = false,
}: Props) {
	const fabric = useOpenFabric();
	const [open, setOpen] = useState(false);
	const changed = fabric.changed.some(
		(one) => one === path || one.startsWith(`${path}.`) || path.startsWith(`${one}.`),
	);
	const other = useOthers(fabric.name).find((one) => one.place === path);
	const setWord = useWord();
	return (
		<Popover.Root
			open={open}
			onOpenChange={(now) => {
				setOpen(now);
				setWord(now ? path : "");
			}}
		>
			<Popover.Trigger
				data-word
				className={`word ${changed ? "changed" : ""} ${other ? "taken" : ""}`}
				title={other ? `${other.called} is at this word` : changed ? "changed just now" : undefined}
			>
				{children ?? String(value)}
			</Popover.Trigger>
			<WordPanel>
				<Offer
					{...{ path, value, say, choices, parse, also, weighed }}
					typed={typed ?? (value === null || value === undefined ? "" : String(value))}
					onDone={() => {
						setOpen(false);
						setWord("");
					}}
				/>
			</WordPanel>
		</Popover.Root>
	);
}

export function WordPanel({ children, width = 340 }: { children: ReactNode; width?: number }) {
	return (
		<Popover.Portal>
			<Popover.Content
				align="start"
				sideOffset={4}
				collisionPadding={10}
				style={{ width }}
				className="z-30 max-h-[70vh] overflow-y-auto rounded-[4px] border border-hair bg-raised p-3 shadow-md"
			>
				{children}
			</Popover.Content>
		</Popover.Portal>
	);
}

type OfferProps = Required<Pick<Props, "path" | "say" | "choices" | "weighed">> &
	Pick<Props, "value" | "parse" | "also"> & { typed: string; onDone: () => void };

function Offer({ path, value, say, choices, parse, also, weighed, typed, onDone }: OfferProps) {
	const fabric = useOpenFabric();
	const change = useChange(fabric.name, true);
	const [text, setText] = useState(typed);
	const wrong = useTrying(path, parse ? parse(text) : null, Boolean(parse) && text !== typed);
	const weights = useOptions(fabric, path, weighed ? choices.map((choice) => choice.value) : []);
	const take = (next: unknown) =>
		change.mutate(
			{ kind: "edit", edits: [[path, next], ...(also?.(next) ?? [])], note: say(next) },
			{ onSuccess: onDone },
		);
	return (
		<form
			onSubmit={(event) => {
				event.preventDefault();
				if (parse) take(parse(text));
			}}
		>
			{parse && (
				<input
					// biome-ignore lint/a11y/noAutofocus: the word was opened to be typed over
					autoFocus
					aria-label={say("…")}
					className="field mono mb-2 w-full"
					value={text}
					onFocus={(event) => event.target.select()}
					onChange={(event) => setText(event.target.value)}
				/>
			)}
			{wrong && !change.error && <p className="mb-2 border-l-4 border-madder pl-2.5 text-madder">{wrong}</p>}
			{change.error && <Refusal failure={change.error} />}
			<ul>
				{choices.map((choice, index) => {
					const weight = weights?.[index];
					const now = choice.value === value;
					return (
						<li key={choice.label}>
							<button
								type="button"
								disabled={now || Boolean(weight?.refusal) || change.isPending}
								onClick={() => take(choice.value)}
								className="w-full rounded-[3px] px-2 py-1 text-left hover:bg-chosen disabled:cursor-default disabled:hover:bg-transparent"
							>
								<span
									className={
										now ? "font-bold" : weight?.refusal ? "text-soft line-through" : "font-[560] text-indigo"
									}
								>
									{choice.label}
								</span>
								{now && <span className="text-soft"> now</span>}
								{weight && !now && <Effect option={weight} fabric={fabric} />}
							</button>
						</li>
					);
				})}
			</ul>
			{parse && (
				<div className="label-small mt-1.5 px-2">
					<kbd>Enter</kbd> takes what is typed
				</div>
			)}
		</form>
	);
}

function useOptions(fabric: Fabric, path: string, values: unknown[]): Option[] | undefined {
	return useQuery({
		queryKey: ["fabric", fabric.name, "options", fabric.version, path, values],
		queryFn: () =>
			got(
				client.POST("/api/v1/fabrics/{name}/options", {
					params: { path: { name: fabric.name } },
					body: { path, values: values as never[] },
				}),
			),
		enabled: values.length > 0,
	}).data;
}

function Effect({ option, fabric }: { option: Option; fabric: Fabric }) {
	if (option.refusal) return <span className="block text-[11.8px] text-soft">{option.refusal}</span>;
	if (!option.sums) return null;
	const { sums } = option;
	const cables = sums.cables - fabric.sums.cables;
	const switches = sums.switches - fabric.sums.switches;
	const parts = [
		sums.leaf_uplinks_used ? `${ratio(sums.oversubscription)} : 1` : "",
		switches ? `${switches > 0 ? "+" : "−"}${counted(Math.abs(switches), "switch", "switches")}` : "",
		cables ? `${cables > 0 ? "+" : "−"}${counted(Math.abs(cables), "cable")}` : "",
		`${sums.spine_ports_used} of ${sums.spine_ports} spine ports`,
	];
	return <span className="block text-[11.8px] text-soft">{parts.filter(Boolean).join(" · ")}</span>;
}
