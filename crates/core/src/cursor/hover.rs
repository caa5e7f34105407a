//! What stands here, in a person's words.

use super::goals::built_in;
use super::runs::runs;
use super::spots::{Spot, What, at, spots};
use super::{code, known_action, listed_code, written};
use crate::case::Case;
use crate::effects::{Effect, EffectAt};
use crate::facts::Origin;
use crate::finding::listed_short;
use crate::knowledge;
use crate::model::{Filter, FilterOf, FilterSide, Level, Text, Work};
use crate::project::{Project, Read, ReadAt, RunFact};
use crate::rehearsal::{Answer, clock_words, filter_verdict, pattern_fits};
use crate::rules;
use crate::text::{FileId, Span};
use crate::views::stops_of;

/// Words on a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Hover {
    /// What they speak of, in bytes.
    pub at: Span,
    /// Paragraphs; names stand between backticks.
    pub lines: Vec<String>,
}

/// What stands at a byte of a file, in words; nothing where nothing is known of it.
pub fn hover(project: &Project<'_>, file: FileId, offset: usize) -> Option<Hover> {
    let mut step = None;
    for case in super::cases(project, file) {
        let Some(spot) = at(spots(&case, file), offset) else { continue };
        let found = words(&case, &spot).map(|lines| Hover { at: spot.at.span, lines });
        match spot.what {
            What::Step(..) => step = step.or(found),
            _ if found.is_some() => return found,
            _ => {}
        }
    }
    // A key of the grammar is smaller than the step that it stands in.
    key_of_grammar(project, file, offset).or(step)
}

fn key_of_grammar(project: &Project<'_>, file: FileId, offset: usize) -> Option<Hover> {
    let key = written::key_at(project, file, offset)?;
    Some(Hover { at: key.at, lines: vec![format!("{}: {}", code(&key.name), key.meaning)] })
}

fn words(case: &Case<'_>, spot: &Spot) -> Option<Vec<String>> {
    let pipeline = case.pipeline;
    Some(match &spot.what {
        What::Job(job) | What::JobName(Some(job)) => of_job(case, *job),
        What::JobName(None) | What::StepName(None) => return None,
        What::Event(trigger) => of_event(case, *trigger),
        What::Filter(trigger, filter) => of_filter(case, &pipeline.triggers[*trigger].filters[*filter]),
        What::Pattern(trigger, filter, pattern) => of_pattern(case, &pipeline.triggers[*trigger].filters[*filter], *pattern)?,
        What::Step(job, step) | What::StepId(job, step) | What::StepName(Some((job, step))) => of_step(case, *job, *step),
        What::Read(number) => of_read(case, case.reads.get(*number)?)?,
        What::Action(job, step) => of_action(case, *job, *step)?,
        What::Input(job, step, name) => of_input(case, *job, *step, name)?,
        What::CacheKey(job, step, effect) => of_key(case, &case.effects.jobs[*job][*step].effects[*effect])?,
        What::Artifact(name, _) => of_artifact(case, name),
        What::Script(dir, name) => of_script(case, dir, name)?,
        What::Build(job, step, effect) => of_build(&case.effects.jobs[*job][*step].effects[*effect])?,
        What::Folder(job, folder) => of_folder(case, *job, folder)?,
        What::Acceptance(number) => of_rule(&case.prepared.acceptances.get(*number)?.rule)?,
        What::Call(job) => of_call(case, *job)?,
        What::File(path) => vec![format!("A part of this pipeline: {}.", code(path))],
        What::Stage(name) => of_stage(case, name)?,
        What::Environment(name) => of_environment(case, name),
        What::Grant(scope, level) => of_grant(scope, level)?,
    })
}

fn of_job(case: &Case<'_>, number: usize) -> Vec<String> {
    let pipeline = case.pipeline;
    let job = &pipeline.jobs[number];
    let mut lines = vec![format!("**Job** {}: {}.", code(&job.id.value), runs(case, number).told())];
    let needs: Vec<&str> = job.needs.iter().map(|need| need.value.as_str()).collect();
    if !needs.is_empty() {
        lines.push(format!("Waits for {}.", listed_code(&needs)));
    }
    let waiting: Vec<&str> = (0..pipeline.jobs.len())
        .filter(|other| pipeline.needed_by(*other).contains(&number))
        .map(|other| pipeline.jobs[other].id.value.as_str())
        .collect();
    if !waiting.is_empty() {
        lines.push(format!("{} {} for it.", listed_code(&waiting), if waiting.len() == 1 { "waits" } else { "wait" }));
    }
    if let Some(times) = job.matrix.as_ref().and_then(|matrix| matrix.legs).filter(|legs| *legs > 1) {
        lines.push(format!("Runs {times} times, once for each leg of its matrix."));
    }
    let stops: Vec<String> = (0..job.steps.len())
        .flat_map(|step| stops_of(case, number, step))
        .map(|stop| format!("{}: {}", stop.kind.word(), plain(&stop.text)))
        .collect();
    if !stops.is_empty() {
        lines.push(format!("The site here: {}.", stops.join("; ")));
    }
    lines
}

/// Words of a view that hold parts of files.
fn plain(text: &str) -> String {
    crate::shown::shown(text)
}

fn of_event(case: &Case<'_>, number: usize) -> Vec<String> {
    let trigger = &case.pipeline.triggers[number];
    let mut events: Vec<String> = Vec::new();
    for (occasion, rehearsal) in case.played() {
        if rehearsal.trigger == Some(number) && rehearsal.starts.answer > Answer::No {
            let perhaps = if rehearsal.starts.answer == Answer::Unsure { "perhaps on " } else { "" };
            let told = format!("{perhaps}{}", occasion.told());
            if !events.contains(&told) {
                events.push(told);
            }
        }
    }
    let name = code(&trigger.name.value);
    let mut lines = vec![match events.is_empty() {
        true => format!("**Event** {name}."),
        false => format!("**Event** {name}: it starts this pipeline on {}.", plain(&listed_short(&events))),
    }];
    for time in &trigger.times {
        if let Some(words) = time.known().and_then(clock_words) {
            lines.push(format!("{}: {words}.", code(&time.value)));
        }
    }
    lines
}

/// The names that a filter is held against, where those are known.
fn names_for<'c>(case: &'c Case<'_>, of: FilterOf) -> Option<(&'c [String], &'static str)> {
    let git = &case.facts.git;
    match of {
        FilterOf::Branches => Some((git.branches.known()?.as_slice(), "branches")),
        FilterOf::Tags => Some((git.tags.known()?.as_slice(), "tags")),
        FilterOf::Paths => None,
    }
}

fn of_filter(case: &Case<'_>, filter: &Filter) -> Vec<String> {
    let key = code(&filter.key.value);
    let (what, side) = match filter.of {
        FilterOf::Branches => ("branches", filter.side),
        FilterOf::Tags => ("tags", filter.side),
        FilterOf::Paths => ("changed files", filter.side),
    };
    let first = match side {
        FilterSide::Include => format!("**Filter** {key}: only these {what} start it."),
        FilterSide::Exclude => format!("**Filter** {key}: all {what} but these start it."),
    };
    let Some((names, what)) = names_for(case, filter.of) else { return vec![first] };
    let takes = |name: &&String| match (filter.side, filter_verdict(filter, name).answer) {
        (FilterSide::Include, answer) => answer == Answer::Yes,
        (FilterSide::Exclude, answer) => answer == Answer::No,
    };
    let fits: Vec<&String> = names.iter().filter(takes).collect();
    let now = match fits.is_empty() {
        true => format!("Of the {what} that exist now it fits none."),
        false => format!("Of the {what} that exist now it fits {}.", plain(&listed_short(&fits))),
    };
    vec![first, now]
}

fn of_pattern(case: &Case<'_>, filter: &Filter, number: usize) -> Option<Vec<String>> {
    let pattern = filter.patterns.get(number)?;
    let first = format!("**Pattern** {}", code(&pattern.text.value));
    let Some((names, what)) = names_for(case, filter.of) else {
        let files = case.facts.files.known().filter(|_| filter.of == FilterOf::Paths)?;
        let fits = files.iter().filter(|path| pattern_fits(pattern, path) == Some(true)).count();
        return Some(vec![format!("{first}: it fits {fits} of the files that are there now.")]);
    };
    let fits: Vec<&String> = names.iter().filter(|name| pattern_fits(pattern, name) == Some(true)).collect();
    Some(vec![match (fits.as_slice(), pattern.is_exception()) {
        ([], _) => format!("{first}: of the {what} that exist now it fits none."),
        (fits, false) => format!("{first}: of the {what} that exist now it fits {}.", plain(&listed_short(fits))),
        (fits, true) => format!("{first}: of the {what} that exist now it takes {} out.", plain(&listed_short(fits))),
    }])
}

fn of_step(case: &Case<'_>, job: usize, number: usize) -> Vec<String> {
    let step = &case.pipeline.jobs[job].steps[number];
    let title = match (&step.name, &step.work) {
        (Some(name), _) => format!(": {}", code(&name.value)),
        (None, Work::Uses { action, .. }) => format!(": {}", code(&action.value)),
        _ => String::new(),
    };
    let mut lines = vec![format!("**Step** {} of {}{title}", number + 1, code(&case.pipeline.jobs[job].id.value))];
    let stops = stops_of(case, job, number);
    lines.extend(stops.iter().map(|stop| format!("- {}: {}", stop.kind.word(), plain(&stop.text))));
    let effects = &case.effects.jobs[job][number].effects;
    lines.extend(effects.iter().filter_map(deed).map(|deed| format!("- {deed}")));
    if lines.len() == 1 {
        lines.push(match effects.iter().any(|effect| matches!(effect.effect, Effect::Unknown(_))) {
            true => "What it does to the folders is not known.".to_owned(),
            false => "It does nothing to the folders.".to_owned(),
        });
    }
    lines
}

/// What else a step does that is worth a word.
fn deed(effect: &EffectAt) -> Option<String> {
    let value = |text: &Option<Text>| text.as_ref().map(|text| format!(" {}", code(&text.value))).unwrap_or_default();
    Some(match &effect.effect {
        Effect::SetUp { tool, version, .. } => format!("makes {tool}{} ready", value(version)),
        Effect::RestoreCache { key, .. } => format!("brings the cache{} back", value(key)),
        Effect::SaveCache { key, .. } => format!("saves the cache{}", value(key)),
        Effect::RunScript { name, manager, .. } => format!("runs the script {} with {manager}", code(name)),
        Effect::Test { tool } => format!("looks at the sources with {}", code(tool)),
        Effect::Remove { path: Some(path) } => format!("removes {}", code(path)),
        Effect::Push { branch: Some(branch), .. } => format!("pushes to {}", code(branch)),
        _ => return None,
    })
}

fn of_read(case: &Case<'_>, read: &ReadAt) -> Option<Vec<String>> {
    let name = code(&read.name);
    Some(match read.read {
        Read::Secret | Read::ForgeVariable | Read::Unheld => of_held(case, read),
        Read::OwnToken => vec![format!("{name}: the job's own token, which the forge makes for each run.")],
        Read::Variable => {
            let value = value_of(case, read);
            let shown = value.filter(|value| !looks_secret(&read.name, value)).map(|value| format!(", {}", code(&value.value)));
            vec![format!("{name}: a variable that this pipeline sets{}.", shown.unwrap_or_default())]
        }
        Read::Run(fact) => vec![format!("{name}: {}.", of_run(fact))],
        Read::Axis => {
            let axes = read.job.and_then(|job| case.pipeline.jobs[job].matrix.as_ref());
            let values = axes.and_then(|matrix| matrix.axes.iter().find(|(axis, _)| axis.value.eq_ignore_ascii_case(&read.name)));
            let values: Vec<&str> = values.iter().flat_map(|(_, values)| values).map(|value| value.value.as_str()).collect();
            let told = if values.is_empty() { String::new() } else { format!(": {}", listed_code(&values)) };
            vec![format!("{name}: a key of the job's matrix{told}.")]
        }
        Read::StepOutput => vec![format!("What the step {name} gives.")],
        Read::JobOutput => vec![format!("What the job {name} gives.")],
        Read::Gone => vec![format!("{name}: the forge no longer sets this variable.")],
        Read::Misnamed => vec![format!("{name}: the forge sets no variable of this name.")],
        Read::Unknown => return None,
    })
}

fn looks_secret(name: &str, value: &Text) -> bool {
    let line = format!("{name}: {}", value.value);
    crate::mask::mask(&line) != line
}

/// The value of a variable where it is read: the nearest one.
fn value_of<'c>(case: &'c Case<'_>, read: &ReadAt) -> Option<&'c Text> {
    let of_job = |job: usize| &case.pipeline.jobs[job];
    let own = read.job.and_then(|job| of_job(job).steps.get(read.step?)?.variables.get(&read.name));
    own.or_else(|| of_job(read.job?).variables.get(&read.name)).or_else(|| case.pipeline.variables.get(&read.name))
}

fn of_held(case: &Case<'_>, read: &ReadAt) -> Vec<String> {
    let forge = &case.facts.settings.forge;
    let kind = match read.read {
        Read::Secret => "a secret that the forge keeps",
        Read::ForgeVariable => "a variable that the forge keeps",
        _ => "a name that the forge may keep a value under",
    };
    let environment = read.job.and_then(|job| case.pipeline.jobs[job].environment.as_ref()).map(|name| name.value.as_str());
    let declared = if forge.holds(&read.name, environment) {
        "dulk.toml says that it exists"
    } else if forge.secrets.is_some() || forge.variables.is_some() {
        "dulk.toml does not name it"
    } else {
        "whether it exists is not known: dulk.toml names no secrets"
    };
    let mut lines = vec![format!("{}: {kind}; {declared}.", code(&read.name))];
    let jobs: Vec<&str> = {
        let mut found: Vec<usize> = case
            .reads
            .iter()
            .filter(|other| other.read == read.read && other.name == read.name)
            .filter_map(|one| one.job)
            .collect();
        found.sort_unstable();
        found.dedup();
        found.into_iter().map(|job| case.pipeline.jobs[job].id.value.as_str()).collect()
    };
    if !jobs.is_empty() {
        lines.push(format!("Read here by {}.", listed_code(&jobs)));
    }
    lines
}

fn of_run(fact: RunFact) -> &'static str {
    match fact {
        RunFact::Commit => "what the run knows of its commit; another one for each push",
        RunFact::Run => "what the run knows of itself; another one each time",
        RunFact::Ref => "the branch or tag of the run",
        RunFact::Os => "the system that the job runs on",
        RunFact::Job => "the name of the job or the pipeline; always the same",
        RunFact::Other => "what the run knows of itself",
    }
}

fn of_action(case: &Case<'_>, job: usize, step: usize) -> Option<Vec<String>> {
    let Work::Uses { action, found, .. } = &case.pipeline.jobs[job].steps[step].work else { return None };
    let mut lines = of_step(case, job, step);
    if let Some(own) = case.project.action(found) {
        lines.insert(1, format!("An action of this repository: {}.", code(&case.sources.get(own.file).path)));
        return Some(lines);
    }
    let Some((known, version)) = known_action(&action.value) else {
        lines.insert(1, "An action that is not known here.".to_owned());
        return Some(lines);
    };
    if let Some(newest) = known.newest {
        let own = version.and_then(knowledge::major);
        lines.push(match own {
            Some(own) if known.retired.contains(&own) => format!("Version {own} no longer runs; the newest known is v{newest}."),
            Some(own) if own < newest => format!("The newest version known is v{newest}."),
            _ => format!("v{newest} is the newest version known."),
        });
    }
    if !known.inputs.is_empty() {
        lines.push(format!("Takes {}.", listed_short(&known.inputs.iter().map(|input| code(input)).collect::<Vec<_>>())));
    }
    Some(lines)
}

fn of_input(case: &Case<'_>, job: usize, step: usize, input: &str) -> Option<Vec<String>> {
    let Work::Uses { action, found, .. } = &case.pipeline.jobs[job].steps[step].work else { return None };
    if let Some(own) = case.project.action(found) {
        let declared = own.inputs()?.into_iter().find(|one| one.name.value.eq_ignore_ascii_case(input))?;
        let about = declared.details.get("description").map(|text| format!(": {}", plain(&text.value))).unwrap_or_default();
        let default = declared.default.as_ref().map(|text| format!(" Without it, {}.", code(&text.value))).unwrap_or_default();
        let needed = if declared.required { " It must be given." } else { "" };
        return Some(vec![format!("**Input** {}{about}.{needed}{default}", code(input))]);
    }
    let (known, version) = known_action(&action.value)?;
    let mut line = format!("**Input** {} of {}.", code(input), code(known.uses));
    if let Some(new) = known.renamed(input) {
        line.push_str(&match new {
            "" => " It is gone in newer versions.".to_owned(),
            new => format!(" It is called {} in newer versions.", code(new)),
        });
    } else if known.required.iter().any(|one| one.eq_ignore_ascii_case(input)) {
        line.push_str(" It must be given.");
    } else if !known.takes(input) && known.is_complete_for(version) {
        line.push_str(" The action takes no such input.");
    }
    Some(vec![line])
}

fn of_key(case: &Case<'_>, effect: &EffectAt) -> Option<Vec<String>> {
    let (key, hashes, paths) = match &effect.effect {
        Effect::RestoreCache { key: Some(key), hashes, paths, .. } => (key, hashes.as_slice(), paths),
        Effect::SaveCache { key: Some(key), paths } => (key, &[][..], paths),
        _ => return None,
    };
    let mut lines = vec![format!("**Key** of a cache: {}.", code(&key.value))];
    let held: Vec<&str> = paths.iter().map(|path| path.written.as_str()).collect();
    if !held.is_empty() {
        lines.push(format!("It holds {}.", listed_code(&held)));
    }
    let mut parts: Vec<String> = hashes
        .iter()
        .filter_map(|hash| hash.patterns.as_ref())
        .map(|patterns| format!("the contents of {}", listed_code(patterns)))
        .collect();
    parts.extend(case.reads_of(key).into_iter().filter_map(|read| match read.read {
        Read::Run(fact) => Some(format!("{} ({})", code(&read.name), of_run(fact))),
        Read::Unknown => None,
        _ => Some(code(&read.name)),
    }));
    lines.push(match parts.is_empty() {
        true => "Nothing in it becomes another word by itself.".to_owned(),
        false => format!("It becomes another one with {}.", crate::finding::listed(&parts)),
    });
    Some(lines)
}

fn of_artifact(case: &Case<'_>, name: &str) -> Vec<String> {
    let (mut given, mut taken): (Vec<&str>, Vec<&str>) = Default::default();
    for (job, _, effect) in case.all_effects() {
        let id = case.pipeline.jobs[job].id.value.as_str();
        match &effect.effect {
            Effect::Upload { name: own, .. } if own.known() == Some(name) => given.push(id),
            other if other.takes().is_some_and(|(own, _)| own.known() == Some(name)) => taken.push(id),
            _ => {}
        }
    }
    given.dedup();
    taken.dedup();
    let told = |jobs: &[&str], none: &str| if jobs.is_empty() { none.to_owned() } else { listed_code(jobs) };
    vec![format!(
        "**Artifact** {}: handed on by {}, taken by {}.",
        code(name),
        told(&given, "no job here"),
        told(&taken, "no job here")
    )]
}

fn of_script(case: &Case<'_>, dir: &str, name: &str) -> Option<Vec<String>> {
    let (folder, package) = case.facts.package_for(dir)?;
    let path = if folder.is_empty() { "package.json".to_owned() } else { format!("{folder}/package.json") };
    Some(vec![match package.script(name) {
        Some(script) => format!("**Script** {} of {}: {}", code(name), code(&path), code(&script.command)),
        None => format!("{} has no script {}.", code(&path), code(name)),
    }])
}

fn of_build(effect: &EffectAt) -> Option<Vec<String>> {
    let Effect::Build { generator, output, origin, base, server, .. } = &effect.effect else { return None };
    let known = match origin {
        Origin::At(_) => "as its configuration says",
        _ => "as it does by itself",
    };
    let mut lines = vec![match output {
        Some(output) if output.is_empty() => format!("**Build** with {generator} into the folder it runs in, {known}."),
        Some(output) => format!("**Build** with {generator} into {}, {known}.", code(output)),
        None => format!("**Build** with {generator}; into which folder is not known."),
    }];
    if let Some((base, _)) = base {
        lines.push(format!("Its pages expect to be served under {}.", code(base)));
    }
    if *server == Some(true) {
        lines.push("It makes a server rather than a folder of files.".to_owned());
    }
    Some(lines)
}

fn of_folder(case: &Case<'_>, job: usize, folder: &str) -> Option<Vec<String>> {
    let Effect::Build { generator, .. } = &built_in(case, job, folder)?.effect else { return None };
    Some(vec![format!("**Folder** {}: {generator} makes it.", code(folder))])
}

fn of_rule(id: &str) -> Option<Vec<String>> {
    let rule = rules::find(id)?;
    Some(vec![format!("**Rule** {} ({}): {}.", code(id), rule.severity.word(), rule.title), rule.why.to_owned()])
}

fn of_call(case: &Case<'_>, job: usize) -> Option<Vec<String>> {
    let call = case.pipeline.jobs[job].call.as_ref()?;
    let mut lines = of_job(case, job);
    match case.project.callee(call) {
        Some(callee) => {
            let callee = &case.project.prepared[callee].pipeline;
            let jobs: Vec<&str> = callee.jobs.iter().map(|job| job.id.value.as_str()).collect();
            let path = &case.sources.get(callee.file).path;
            lines.push(format!("Calls {} with its jobs {}.", code(path), listed_code(&jobs)));
        }
        None => lines.push(format!("Calls {}, which is not in this repository.", code(&call.target.value))),
    }
    Some(lines)
}

fn of_stage(case: &Case<'_>, name: &str) -> Option<Vec<String>> {
    let stages = case.pipeline.stages.as_ref()?;
    let place = stages.iter().position(|stage| stage.value == name)?;
    let is_in = |job: &&crate::model::Job| job.stage.as_ref().is_some_and(|stage| stage.value == name);
    let jobs: Vec<&str> = case.pipeline.jobs.iter().filter(is_in).map(|job| job.id.value.as_str()).collect();
    let told = if jobs.is_empty() { "no job here is in it".to_owned() } else { format!("its jobs are {}", listed_code(&jobs)) };
    Some(vec![format!("**Stage** {}, number {} of {}: {told}.", code(name), place + 1, stages.len())])
}

fn of_environment(case: &Case<'_>, name: &str) -> Vec<String> {
    let declared = case.facts.settings.forge.environments.get(name);
    let branches = declared.and_then(|one| one.branches.as_ref());
    let told = match branches {
        Some(branches) => {
            let names: Vec<&str> = branches.iter().map(|one| one.name.as_str()).collect();
            format!("only {} may deploy to it, as dulk.toml says", listed_code(&names))
        }
        None => "which branches may deploy to it is not known".to_owned(),
    };
    vec![format!("**Environment** {}: {told}.", code(name))]
}

fn of_grant(scope: &str, level: &str) -> Option<Vec<String>> {
    let told = Level::of(level)?.meaning();
    Some(vec![format!(
        "**Permission** {}: with {} the job's token {told}. A permission that is not named here is not given.",
        code(scope),
        code(level)
    )])
}
