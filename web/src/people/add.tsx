/** Somebody new, or a team: named in a sentence, and a link to hand over. */
import * as Popover from "@radix-ui/react-popover";
import { useState } from "react";
import { client, got } from "../api/client";
import { Asked, Field } from "../app/asked";
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
						<Asked act={add} verb="Add them" onTake={() => add.mutate(undefined)}>
							<Field
								label="They are called"
								value={called}
								placeholder="Nadia Oke"
								set={setCalled}
								required
							/>
							<Field label="and sign in as" mono value={name} placeholder="nadia" set={setName} required />
						</Asked>
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
					<Asked
						act={add}
						verb="Add it"
						onTake={() =>
							add.mutate(undefined, {
								onSuccess: () => {
									setOpen(false);
									onAdded(name);
								},
							})
						}
					>
						<Field
							label="The team is called"
							value={name}
							placeholder="Satellite Intake"
							set={setName}
							required
						/>
						<Field label="and does this" value={note} set={setNote} />
					</Asked>
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}
