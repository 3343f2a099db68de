/** People: a weave of who (weft) and which fabric (warp); each crossing carries what they are to it. */
import { Fragment, useState } from "react";
import { useFabrics } from "../api/queries";
import { Screen } from "../app/screen";
import { Margin } from "../ui/margin";
import { usePlace } from "../ui/place";
import { counted } from "../ui/words";
import { AddPerson, AddTeam } from "./add";
import { Crossing } from "./crossing";
import { PersonMargin, TeamMargin } from "./margin";
import { type Given, type People, usePeople, type Whom } from "./queries";
import { RightsTable } from "./table";

export function PeopleScreen() {
	const { data, error } = usePeople();
	const fabrics = useFabrics().data ?? [];
	const [place, go] = usePlace("person", "team");
	const person = data?.people.find((one) => one.name === place.person);
	const team = data?.teams.find((one) => one.name === place.team);
	return (
		<Screen title="People" keys={[["Tab", "from crossing to crossing"]]}>
			<div className="flex min-h-0">
				<main className="min-w-0 flex-1 overflow-auto px-8 py-7">
					<div className="mb-4 flex items-baseline gap-5">
						<h1 className="text-[22px] font-bold tracking-tight">
							{data
								? counted(data.people.filter((one) => !one.left_at).length, "person", "people")
								: "People"}
						</h1>
						<AddPerson onAdded={(name) => go({ person: name })} />
						<AddTeam onAdded={(name) => go({ team: name })} />
					</div>
					{error && <p className="text-madder">{error.message}</p>}
					{data && (
						<PeopleWeave
							data={data}
							fabrics={fabrics.map((one) => one.name)}
							chosen={place.person ?? place.team ?? ""}
							onChoose={(whom) => go(whom)}
						/>
					)}
					<RightsTable />
				</main>
				<Margin width={300}>
					{person && data ? (
						<PersonMargin person={person} teams={data.teams} key={person.name} />
					) : team && data ? (
						<TeamMargin team={team} people={data.people} key={team.name} onGone={() => go({})} />
					) : (
						<p className="pr-6 text-soft">
							Choose a name to see who it is, and a crossing to say what they are to a fabric. What is said in
							the first column holds for all fabrics, also for those to come.
						</p>
					)}
				</Margin>
			</div>
		</Screen>
	);
}

interface WeaveProps {
	data: People;
	fabrics: string[];
	chosen: string;
	onChoose: (whom: Whom) => void;
}

function PeopleWeave({ data, fabrics, chosen, onChoose }: WeaveProps) {
	const [showLeft, setShowLeft] = useState(false);
	const here = data.people.filter((one) => showLeft || !one.left_at);
	const left = data.people.filter((one) => one.left_at).length;
	const columns = [null, ...fabrics];
	const row = (label: string, sub: string, whom: Whom, given: Given[], team: boolean) => (
		<tr key={`${team} ${label}`} className="group">
			<th scope="row" className="sticky left-0 z-10 bg-paper pr-4 text-left font-normal">
				<button
					type="button"
					aria-current={chosen === (whom.person ?? whom.team)}
					className={`w-full rounded-[3px] px-2 py-1 text-left ${chosen === (whom.person ?? whom.team) ? "bg-chosen" : "hover:bg-raised"}`}
					onClick={() => onChoose(whom)}
				>
					<span className={team ? "font-[560] italic" : "font-[560]"}>{label}</span>
					<span className="block text-[11.8px] text-soft">{sub}</span>
				</button>
			</th>
			{columns.map((fabric) => (
				<Crossing
					key={fabric ?? ""}
					whom={whom}
					called={label}
					fabric={fabric}
					given={given.filter((one) => one.fabric === fabric)}
				/>
			))}
		</tr>
	);
	return (
		<>
			<table className="border-separate border-spacing-0">
				<thead>
					<tr>
						<td />
						{columns.map((fabric) => (
							<th
								key={fabric ?? ""}
								scope="col"
								className="h-9 min-w-[112px] px-3 text-center align-bottom text-[12.5px] font-[560]"
							>
								{fabric ?? "all fabrics"}
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{here.map((one) => {
						const own = data.given.filter((given) => given.person === one.name);
						const teams = data.teams
							.filter((team) => team.members.includes(one.name))
							.map((team) => team.name);
						const by = data.given.filter((given) => given.team && teams.includes(given.team));
						return row(
							one.called,
							one.left_at ? "left" : [one.name, ...teams].join(", "),
							{ person: one.name },
							[...own, ...by],
							false,
						);
					})}
					{data.teams.length > 0 && (
						<Fragment>
							<tr>
								<th
									scope="rowgroup"
									colSpan={columns.length + 1}
									className="pt-4 pb-1 pl-2 text-left label-small"
								>
									Teams, whose members have what the team has
								</th>
							</tr>
							{data.teams.map((one) =>
								row(
									one.name,
									one.members.length ? one.members.join(", ") : "nobody yet",
									{ team: one.name },
									data.given.filter((given) => given.team === one.name),
									true,
								),
							)}
						</Fragment>
					)}
				</tbody>
			</table>
			{left > 0 && (
				<button type="button" className="button-plain mt-2 ml-2" onClick={() => setShowLeft(!showLeft)}>
					{showLeft ? "Hide who left" : `Show ${left} who left`}
				</button>
			)}
		</>
	);
}
