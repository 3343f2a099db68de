/** Somebody new, or a team: named in a sentence, and a link to hand over. */
import * as Popover from "@radix-ui/react-popover";
import { useState } from "react";
import { client, got } from "../api/client";
import { Refusal } from "../app/refusal";
import { LinkToGive } from "./link";
import { usePeopleAct } from "./queries";

const PANEL = "z-30 w-[380px] rounded-[4px] border border-hair bg-raised p-3 shadow-md";

export function AddPerson({ onAdded }: { onAdded: (name: string) => void }) {
	const [called, setCalled] = useState("");
	const [name, setName] = useState("");
	const add = usePeopleAct(
		() => got(client.POST("/api/v1/people", { body: { name, called } })),
		undefined,
		true,
	);
	return (
		<Popover.Root
			onOpenChange={(open) => {
				if (open) return;
				if (add.data) onAdded(name);
				add.reset();
				setName("");
				setCalled("");
			}}
		>
			<Popover.Trigger className="button-plain">Add somebody</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content align="start" sideOffset={4} className={PANEL}>
					{add.data ? (
						<LinkToGive secret={add.data.secret} called={called} />
					) : (
						<form
							className="space-y-2.5"
							onSubmit={(event) => {
								event.preventDefault();
								add.mutate(undefined);
							}}
						>
							<label className="flex flex-col gap-1">
								They are called
								<input
									className="field"
									value={called}
									placeholder="Nadia Oke"
									onChange={(event) => setCalled(event.target.value)}
									required
								/>
							</label>
							<label className="flex flex-col gap-1">
								and sign in as
								<input
									className="field mono"
									value={name}
									placeholder="nadia"
									onChange={(event) => setName(event.target.value)}
									required
								/>
							</label>
							{add.error && <Refusal failure={add.error} />}
							<button type="submit" className="button-main" disabled={add.isPending}>
								Add them
							</button>
						</form>
					)}
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}

export function AddTeam({ onAdded }: { onAdded: (name: string) => void }) {
	const [open, setOpen] = useState(false);
	const [name, setName] = useState("");
	const [note, setNote] = useState("");
	const add = usePeopleAct(
		() =>
			got(
				client.PUT("/api/v1/teams/{team}", { params: { path: { team: name } }, body: { note, members: [] } }),
			),
		undefined,
		true,
	);
	return (
		<Popover.Root open={open} onOpenChange={setOpen}>
			<Popover.Trigger className="button-plain">Add a team</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content align="start" sideOffset={4} className={PANEL}>
					<form
						className="space-y-2.5"
						onSubmit={(event) => {
							event.preventDefault();
							add.mutate(undefined, {
								onSuccess: () => {
									setOpen(false);
									onAdded(name);
								},
							});
						}}
					>
						<label className="flex flex-col gap-1">
							The team is called
							<input
								className="field"
								value={name}
								placeholder="Satellite Intake"
								onChange={(event) => setName(event.target.value)}
								required
							/>
						</label>
						<label className="flex flex-col gap-1">
							and does this
							<input className="field" value={note} onChange={(event) => setNote(event.target.value)} />
						</label>
						{add.error && <Refusal failure={add.error} />}
						<button type="submit" className="button-main" disabled={add.isPending}>
							Add it
						</button>
					</form>
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}
