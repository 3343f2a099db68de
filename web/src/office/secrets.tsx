/** Secrets of the office: which there are, set by name and never shown again. */
import * as Popover from "@radix-ui/react-popover";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Failure, got } from "../api/client";
import { Refusal } from "../app/refusal";
import { counted, day } from "../ui/words";

export function Secrets({ may }: { may: boolean }) {
	const { data: rows = [] } = useQuery({
		queryKey: ["office", "secrets"],
		queryFn: () => got(client.GET("/api/v1/office/secrets")),
	});
	return (
		<Popover.Root>
			<Popover.Trigger className="button-plain min-h-6 px-6 text-[12.5px]">
				{rows.length ? counted(rows.length, "secret") : "secrets"}
			</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					align="start"
					sideOffset={4}
					className="z-30 w-[400px] rounded-[4px] border border-hair bg-raised p-4 shadow-md"
				>
					<h2 className="mb-1 font-bold">Secrets</h2>
					<p className="mb-2 text-soft">
						What a template prints by a variable of kind secret. Files name it until they leave for switches;
						nobody is shown it again.
					</p>
					<ul className="mb-2">
						{rows.map((one) => (
							<li key={one.name} className="flex items-baseline gap-3 border-t border-hair py-1.5">
								<b className="mono">{one.name}</b>
								<span className="min-w-0 flex-1 text-[12px] text-soft">
									set by {one.author}, {day(one.saved_at)}
								</span>
								{may && <Forget name={one.name} />}
							</li>
						))}
					</ul>
					{may && <SetSecret />}
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}

function useChanged() {
	const queries = useQueryClient();
	return () => void queries.invalidateQueries({ queryKey: ["office", "secrets"] });
}

function Forget({ name }: { name: string }) {
	const changed = useChanged();
	const drop = useMutation<unknown, Failure>({
		mutationFn: () =>
			got(client.DELETE("/api/v1/office/secrets/{secret}", { params: { path: { secret: name } } })),
		onSuccess: changed,
	});
	return (
		<button
			type="button"
			className="button-plain"
			aria-label={`Forget ${name}`}
			onClick={() => drop.mutate()}
		>
			Forget
		</button>
	);
}

function SetSecret() {
	const changed = useChanged();
	const [name, setName] = useState("");
	const [value, setValue] = useState("");
	const put = useMutation<unknown, Failure>({
		mutationFn: () =>
			got(
				client.PUT("/api/v1/office/secrets/{secret}", {
					params: { path: { secret: name } },
					body: { value },
				}),
			),
		onSuccess: () => {
			setName("");
			setValue("");
			changed();
		},
	});
	return (
		<form
			className="flex flex-col gap-2 border-t border-hair pt-2"
			onSubmit={(event) => {
				event.preventDefault();
				if (name && value) put.mutate();
			}}
		>
			<div className="flex gap-2">
				<input
					className="field mono w-36"
					aria-label="The secret's name"
					placeholder="its name"
					value={name}
					onChange={(event) => setName(event.target.value)}
				/>
				<input
					className="field min-w-0 flex-1"
					type="password"
					autoComplete="off"
					aria-label="What it is"
					placeholder="what it is"
					value={value}
					onChange={(event) => setValue(event.target.value)}
				/>
			</div>
			{put.error && <Refusal failure={put.error} />}
			<button type="submit" className="button-main self-start" disabled={!name || !value || put.isPending}>
				Keep it
			</button>
		</form>
	);
}
