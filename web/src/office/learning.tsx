/** From a configuration that is known to be good to a template: paste it, say whose it is, see what comes back, take it. */
import * as Dialog from "@radix-ui/react-dialog";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Failure, got } from "../api/client";
import { useFabrics, useSwitches } from "../api/queries";
import type { components } from "../api/schema";
import { Refusal } from "../app/refusal";
import { counted } from "../ui/words";

type Learned = components["schemas"]["TemplateLearned"];

interface Asked {
	fabric: string;
	at: string;
	second: string;
	text: string;
}

export function Learning({
	target,
	taken,
	onTake,
}: {
	target: string;
	taken: string[];
	onTake: (file: string, text: string) => void;
}) {
	const [open, setOpen] = useState(false);
	return (
		<Dialog.Root open={open} onOpenChange={setOpen}>
			<Dialog.Trigger className="button-plain min-h-6 px-6 text-[12.5px]">
				from a configuration…
			</Dialog.Trigger>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
				<Dialog.Content className="fixed inset-x-0 top-10 z-50 mx-auto flex max-h-[88vh] w-[980px] flex-col rounded-[4px] border border-hair bg-raised p-5 shadow-lg">
					<Dialog.Title className="text-[15px] font-bold">
						A template of {target} from a configuration
					</Dialog.Title>
					<Dialog.Description className="mb-3 text-soft">
						Paste the text of a switch that is known to be good, and say which switch of a fabric it is.
						Barrio finds what its model knows, and makes loops where blocks repeat.
					</Dialog.Description>
					<Form
						onTake={(text) => {
							onTake(fresh(taken), text);
							setOpen(false);
						}}
					/>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}

/** A name for the template that no other has. */
const fresh = (taken: string[]) => {
	const names = ["learned.j2", ...Array.from({ length: 90 }, (_, at) => `learned-${at + 2}.j2`)];
	return names.find((name) => !taken.includes(name)) ?? "learned.j2";
};

function Form({ onTake }: { onTake: (template: string) => void }) {
	const fabrics = useFabrics().data ?? [];
	const [fabric, setFabric] = useState("");
	const name = fabric || (fabrics[0]?.name ?? "");
	const switches = useSwitches(name, fabrics.find((one) => one.name === name)?.version ?? 0).data ?? [];
	const [wanted, setWanted] = useState("");
	const at = switches.find((one) => one.name === wanted) ?? switches.at(-1);
	const [other, setOther] = useState("");
	const like = switches.filter((one) => one.name !== at?.name && one.role === at?.role);
	const second = like.find((one) => one.name === other)?.name ?? like[0]?.name ?? "";
	const [text, setText] = useState("");
	const learn = useMutation<Learned, Failure, Asked>({
		mutationFn: (asked) =>
			got(
				client.POST("/api/v1/fabrics/{name}/templates/learn", {
					params: { path: { name: asked.fabric } },
					body: { switch: asked.at, text: asked.text, second: asked.second },
				}),
			),
	});
	const found = learn.data;
	return (
		<>
			<div className="mb-2 flex items-center gap-3">
				<Choice label="Fabric" value={name} options={fabrics.map((one) => one.name)} onChange={setFabric} />
				<Choice
					label="It is of"
					value={at?.name ?? ""}
					options={switches.map((one) => one.name)}
					onChange={setWanted}
				/>
				<Choice label="Shown for" value={second} options={like.map((one) => one.name)} onChange={setOther} />
				<button
					type="button"
					className="button-main ml-auto"
					disabled={!text.trim() || !at || learn.isPending}
					onClick={() => learn.mutate({ fabric: name, at: at?.name ?? "", second, text })}
				>
					{learn.isPending ? "Looking…" : "Find values and loops"}
				</button>
			</div>
			{learn.error && <Refusal failure={learn.error} />}
			<div className="grid min-h-0 flex-1 grid-cols-2 gap-3">
				<textarea
					className="field mono h-[46vh] w-full resize-none"
					aria-label="The configuration"
					placeholder="hostname leaf-r07a&#10;…"
					spellCheck={false}
					value={text}
					onChange={(event) => {
						setText(event.target.value);
						learn.reset();
					}}
				/>
				<section
					aria-label="The template"
					className="h-[46vh] overflow-auto rounded-[3px] border border-hair bg-paper p-2"
				>
					<pre className="mono">{found?.template}</pre>
				</section>
			</div>
			{found && (
				<Result found={found} second={learn.variables?.second ?? ""} onTake={() => onTake(found.template)} />
			)}
		</>
	);
}

function Result({ found, second, onTake }: { found: Learned; second: string; onTake: () => void }) {
	return (
		<div className="mt-2 max-h-[22vh] overflow-y-auto">
			<div className="flex items-center gap-4">
				<p>
					<b>{counted(found.values, "value")}</b> of the model, <b>{counted(found.loops, "loop")}</b>;{" "}
					{found.same ? (
						"it gives back the same bytes."
					) : (
						<span className="text-madder">
							it does not give back the same: {found.differs.slice(0, 3).join(" · ")}
						</span>
					)}
				</p>
				<button type="button" className="button-main ml-auto" onClick={onTake}>
					Take it as a template
				</button>
			</div>
			{found.choices.length > 0 && (
				<details>
					<summary className="cursor-pointer text-weld-ink">
						{counted(found.choices.length, "value")} could be something else as well
					</summary>
					<ul className="pl-4">
						{found.choices.map((one) => (
							<li key={`${one.line} ${one.value} ${one.taken}`}>
								line {one.line}: <span className="mono">{one.value}</span> is taken for{" "}
								<span className="mono text-indigo">{one.taken}</span>; it could be{" "}
								<span className="mono">{one.others.join(", ")}</span>
							</li>
						))}
					</ul>
				</details>
			)}
			{found.second && (
				<details>
					<summary className="cursor-pointer text-soft">What {second} gets</summary>
					<pre className="mono border-l-2 border-hair pl-3">{found.second}</pre>
				</details>
			)}
		</div>
	);
}

function Choice({
	label,
	value,
	options,
	onChange,
}: {
	label: string;
	value: string;
	options: string[];
	onChange: (value: string) => void;
}) {
	return (
		<label className="flex items-center gap-1.5">
			<span className="label-small">{label}</span>
			<select className="field mono" value={value} onChange={(event) => onChange(event.target.value)}>
				{options.map((one) => (
					<option key={one}>{one}</option>
				))}
			</select>
		</label>
	);
}
