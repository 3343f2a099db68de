/** Who somebody is, or a team: when they were here, which teams they are in, and what can be done. */
import { client, got } from "../api/client";
import { useSession } from "../api/session";
import { Facts, MarginHead } from "../ui/margin";
import { clock, day } from "../ui/words";
import { LinkToGive } from "./link";
import { type Person, type Team, usePeopleAct } from "./queries";

const when = (at: string) => `${day(at)}, ${clock(at)}`;

export function PersonMargin({ person, teams }: { person: Person; teams: Team[] }) {
	const me = useSession().data?.name === person.name;
	const path = { person: person.name };
	const link = usePeopleAct(() => got(client.POST("/api/v1/people/{person}/link", { params: { path } })));
	const leave = usePeopleAct(
		(left: boolean) =>
			got(client.PUT("/api/v1/people/{person}/presence", { params: { path }, body: { left } })),
		(_, left) => (left ? `${person.called} has left.` : `${person.called} is back.`),
	);
	const join = usePeopleAct(({ team, on }: { team: Team; on: boolean }) =>
		setTeam(team, on ? [...team.members, person.name] : team.members.filter((one) => one !== person.name)),
	);
	return (
		<>
			<MarginHead kind={person.left_at ? "left" : "person"} title={person.called} />
			<Facts
				rows={[
					[
						"signs in as",
						<span className="mono" key="name">
							{person.name}
						</span>,
					],
					["password", person.has_password ? "chosen" : "not chosen yet"],
					["second factor", person.has_second ? "yes" : "no"],
					["here since", when(person.made_at)],
					["seen", person.seen_at ? when(person.seen_at) : "not signed in now"],
					...(person.left_at ? [["left", when(person.left_at)] as [string, string]] : []),
				]}
			/>
			{teams.length > 0 && (
				<fieldset className="mb-4">
					<legend className="label-small mb-1">In the teams</legend>
					{teams.map((team) => (
						<label key={team.name} className="flex gap-2.5 py-0.5" title={team.note}>
							<input
								type="checkbox"
								className="accent-(--indigo)"
								checked={team.members.includes(person.name)}
								disabled={join.isPending}
								onChange={(event) => join.mutate({ team, on: event.target.checked })}
							/>
							{team.name}
						</label>
					))}
				</fieldset>
			)}
			{link.data ? (
				<LinkToGive secret={link.data.secret} called={person.called} />
			) : (
				!person.left_at && (
					<button
						type="button"
						className="button-plain block"
						disabled={link.isPending}
						onClick={() => link.mutate(undefined)}
					>
						{person.has_password ? "Link for a new password" : "Another link to come in"}
					</button>
				)
			)}
			{!me && (
				<button
					type="button"
					className="button-plain mt-1 block"
					disabled={leave.isPending}
					onClick={() => leave.mutate(!person.left_at)}
				>
					{person.left_at ? "They are back" : "They have left: sign out everywhere"}
				</button>
			)}
		</>
	);
}

const setTeam = (team: Team, members: string[]) =>
	got(
		client.PUT("/api/v1/teams/{team}", {
			params: { path: { team: team.name } },
			body: { note: team.note, members },
		}),
	);

export function TeamMargin({ team, people, onGone }: { team: Team; people: Person[]; onGone: () => void }) {
	const change = usePeopleAct((members: string[]) => setTeam(team, members));
	const end = usePeopleAct(
		() => got(client.DELETE("/api/v1/teams/{team}", { params: { path: { team: team.name } } })),
		() => `Team ${team.name} has ended, and with it the roles that it gave.`,
	);
	return (
		<>
			<MarginHead kind="team" title={team.name} />
			{team.note && <p className="mb-3">{team.note}</p>}
			<fieldset className="mb-4">
				<legend className="label-small mb-1">Its members</legend>
				{people
					.filter((one) => !one.left_at)
					.map((one) => (
						<label key={one.name} className="flex gap-2.5 py-0.5">
							<input
								type="checkbox"
								className="accent-(--indigo)"
								checked={team.members.includes(one.name)}
								disabled={change.isPending}
								onChange={(event) =>
									change.mutate(
										event.target.checked
											? [...team.members, one.name]
											: team.members.filter((name) => name !== one.name),
									)
								}
							/>
							{one.called}
						</label>
					))}
			</fieldset>
			<button
				type="button"
				className="button-plain"
				disabled={end.isPending}
				onClick={() => end.mutate(undefined, { onSuccess: onGone })}
			>
				End the team
			</button>
		</>
	);
}
