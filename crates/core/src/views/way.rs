//! The way of a site, for drawing: the jobs in the order they run, what each does with the folder, and where it ends.

use crate::case::{Case, Published};
use crate::effects::{Effect, EffectAt};
use crate::finding::{Finding, Severity};
use crate::knowledge;
use crate::model::Target;
use crate::project::{Project, columns};
use crate::rehearsal::{Answer, Occasion, Rehearsal};
use crate::text::Place;
use crate::trail::Standing;

/// A thing that is done with the site's files.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum StopKind {
    /// The sources come.
    Sources,
    /// Packages are installed.
    Install,
    /// The site is built.
    Build,
    /// Folders are copied or moved.
    Move,
    /// A folder is handed to other jobs.
    HandOn,
    /// What another job handed on is fetched.
    Fetch,
    /// It goes online.
    Publish,
}

impl StopKind {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Sources => "sources",
            Self::Install => "install",
            Self::Build => "build",
            Self::Move => "move",
            Self::HandOn => "hand on",
            Self::Fetch => "fetch",
            Self::Publish => "publish",
        }
    }
}

/// One thing that is done, where, and whether the way breaks there.
#[derive(Clone, Debug)]
pub struct Stop {
    /// What is done.
    pub kind: StopKind,
    /// To which folder or artifact, in words.
    pub text: String,
    /// Where it is written.
    pub at: Place,
    /// It is known that the folder is there.
    pub certain: bool,
    /// The rule and the message of what breaks the way here.
    pub broken: Option<(&'static str, String)>,
}

/// A job on the way.
#[derive(Clone, Debug)]
pub struct Leg {
    /// Its name.
    pub id: String,
    /// Jobs of the same number run side by side.
    pub wave: usize,
    /// The jobs of the way that it waits for.
    pub waits_for: Vec<String>,
    /// In their order.
    pub stops: Vec<Stop>,
    /// What breaks in the job itself rather than in one of its steps.
    pub broken: Option<(&'static str, String)>,
}

/// The way from the sources to an address.
#[derive(Clone, Debug)]
pub struct Way {
    /// The pipeline's number in its project.
    pub pipeline: usize,
    /// The events on which it ends online, in words.
    pub events: Vec<String>,
    /// Wave by wave.
    pub legs: Vec<Leg>,
    /// Where it ends, in words.
    pub end: String,
    /// What keeps the whole pipeline from running.
    pub broken: Option<(&'static str, String)>,
}

/// Every way to a published site, file by file.
pub fn ways(project: &Project<'_>) -> Vec<Way> {
    let occasions = columns(project);
    (0..project.prepared.len()).flat_map(|index| ways_of(project, index, &occasions)).collect()
}

fn ways_of(project: &Project<'_>, index: usize, occasions: &[Occasion]) -> Vec<Way> {
    let case = project.case(index);
    let published = case.publishes();
    let handed = handed_out(&case).filter(|_| published.is_empty());
    if published.is_empty() && handed.is_none() {
        return Vec::new();
    }
    let errors: Vec<Finding> =
        crate::check(project, index).into_iter().filter(|finding| finding.severity == Severity::Error).collect();
    let mut done: Vec<usize> = Vec::new();
    let mut found = Vec::new();
    for one in published {
        if done.contains(&one.job) {
            continue;
        }
        done.push(one.job);
        let happens = |outcome: &Rehearsal| case.happens(&one, outcome);
        found.push(way(&case, (one.job, end_of(&case, &one)), &happens, &errors, occasions));
    }
    if let Some(job) = handed {
        let happens = |outcome: &Rehearsal| outcome.jobs[job].answer.min(outcome.starts.answer);
        found.push(way(&case, (job, "whatever runs this build takes it from here".to_owned()), &happens, &errors, occasions));
    }
    found
}

/// The job that hands the site to whoever runs the pipeline.
fn handed_out(case: &Case<'_>) -> Option<usize> {
    let hands = |job: &usize| case.effects.of_job(*job).any(|(_, effect)| effect.effect.goes_online());
    (0..case.pipeline.jobs.len()).find(hands).filter(|_| case.pipeline.customs.hands_out_site)
}

/// Whether a place belongs to a job: it stands in its text, or in a file that nothing but its steps come from.
fn belongs_to(case: &Case<'_>, job: usize, place: Place) -> bool {
    let of_job = &case.pipeline.jobs[job];
    let elsewhere = place.file != case.pipeline.file && of_job.steps.iter().any(|step| step.at.file == place.file);
    elsewhere || of_job.body.holds(place)
}

fn way(
    case: &Case<'_>,
    (last, end): (usize, String),
    happens: &dyn Fn(&Rehearsal) -> Answer,
    errors: &[Finding],
    occasions: &[Occasion],
) -> Way {
    let mut jobs = case.pipeline.upstream(last);
    // A job that hands on what this one takes belongs to the way, even when nothing makes this one wait for it.
    jobs.extend(hands_to(case, last, &jobs));
    jobs.push(last);
    let mut seen: Vec<usize> = Vec::new();
    jobs.retain(|job| {
        !seen.contains(job) && {
            seen.push(*job);
            true
        }
    });
    let mut legs: Vec<Leg> = jobs.iter().map(|job| leg(case, *job, &jobs, errors)).collect();
    legs.retain(|leg| !leg.stops.is_empty());
    legs.sort_by_key(|leg| leg.wave);
    let events = occasions.iter().filter_map(|occasion| {
        let outcome = case.project.outcome(case.index, occasion)?;
        match happens(outcome) {
            Answer::Yes => Some(occasion.told()),
            Answer::Unsure => Some(format!("perhaps {}", occasion.told())),
            Answer::No => None,
        }
    });
    let in_steps = |finding: &&Finding| (0..case.pipeline.jobs.len()).any(|job| belongs_to(case, job, finding.at));
    let broken = errors.iter().find(|finding| !in_steps(finding)).map(|finding| (finding.rule, finding.message.clone()));
    Way { pipeline: case.index, events: events.collect(), legs, end, broken }
}

/// Jobs whose artifacts this job takes without waiting for them.
fn hands_to(case: &Case<'_>, job: usize, known: &[usize]) -> Vec<usize> {
    let takes: Vec<&str> =
        case.effects.of_job(job).filter_map(|(_, effect)| effect.effect.takes().and_then(|(name, _)| name.known())).collect();
    let hands = |other: &usize| {
        case.effects.of_job(*other).any(|(_, effect)| matches!(&effect.effect, Effect::Upload { name, .. } if name.known().is_some_and(|name| takes.contains(&name))))
    };
    (0..case.pipeline.jobs.len()).filter(|other| *other != job && !known.contains(other)).filter(hands).collect()
}

fn wave_of(case: &Case<'_>, job: usize, jobs: &[usize], depth: usize) -> usize {
    let needs = case.pipeline.jobs[job]
        .needs
        .iter()
        .filter_map(|need| case.pipeline.job(&need.value))
        .filter(|need| jobs.contains(need) && *need != job);
    needs.map(|need| if depth > 50 { 0 } else { wave_of(case, need, jobs, depth + 1) + 1 }).max().unwrap_or(0)
}

fn leg(case: &Case<'_>, job: usize, jobs: &[usize], errors: &[Finding]) -> Leg {
    let of_job = &case.pipeline.jobs[job];
    let mut stops: Vec<Stop> = Vec::new();
    for (step, effect) in case.effects.of_job(job) {
        if let Some((kind, text, certain)) = told(case, job, step, effect)
            && stops.last().is_none_or(|last| last.text != text || last.kind != kind)
        {
            stops.push(Stop { kind, text, at: effect.at, certain, broken: None });
        }
    }
    // Each error is told at the first stop of its own step, or else with the job.
    let mut broken = None;
    for finding in errors.iter().filter(|finding| belongs_to(case, job, finding.at)) {
        let span = finding.at.span;
        let own = |stop: &&mut Stop| {
            let steps = of_job.steps.iter().filter(|step| step.at.file == stop.at.file && stop.at.file == finding.at.file);
            let step =
                steps.into_iter().find(|step| step.at.span.start <= stop.at.span.start && stop.at.span.end <= step.at.span.end);
            step.is_some_and(|step| step.at.span.start <= span.start && span.end <= step.at.span.end)
        };
        match stops.iter_mut().filter(own).find(|stop| stop.broken.is_none()) {
            Some(stop) => stop.broken = Some((finding.rule, finding.message.clone())),
            None => broken = broken.or_else(|| Some((finding.rule, finding.message.clone()))),
        }
    }
    let waits_for = of_job
        .needs
        .iter()
        .filter(|need| case.pipeline.job(&need.value).is_some_and(|need| jobs.contains(&need)))
        .map(|need| need.value.clone())
        .collect();
    Leg { id: of_job.id.value.clone(), wave: wave_of(case, job, jobs, 0), waits_for, stops, broken }
}

/// What an effect is to the site, in words; nothing for what does not touch it.
fn told(case: &Case<'_>, job: usize, step: usize, effect: &EffectAt) -> Option<(StopKind, String, bool)> {
    let standing = |folder: &str| {
        let handover = case
            .trail
            .handed_on_by(job)
            .iter()
            .find(|handover| handover.step == step && handover.path.folder.as_deref() == Some(folder));
        handover.is_some_and(|handover| handover.standing == Standing::There)
    };
    let named = |folder: &Option<String>| match folder.as_deref() {
        Some("") => "the workspace".to_owned(),
        Some(folder) => folder.to_owned(),
        None => "a folder that is not known".to_owned(),
    };
    Some(match &effect.effect {
        Effect::Checkout { own: true, into, .. } => {
            let into = if into.as_deref() == Some("") { String::new() } else { format!(" into {}", named(into)) };
            (StopKind::Sources, format!("the repository{into}"), true)
        }
        Effect::Checkout { into, .. } => (StopKind::Sources, format!("other sources into {}", named(into)), true),
        Effect::Install { manager, .. } => (StopKind::Install, format!("packages with {manager}"), true),
        Effect::Build { generator, output, .. } => {
            (StopKind::Build, format!("{generator} makes {}", named(output)), output.is_some())
        }
        Effect::Copy { from, to, moves, .. } => {
            let from: Vec<String> = from.iter().map(|source| named(&source.path)).collect();
            (
                StopKind::Move,
                format!("{} {} {}", from.join(", "), if *moves { "becomes" } else { "is copied to" }, named(to)),
                true,
            )
        }
        Effect::Upload { name, paths, .. } => {
            let folders: Vec<&str> = paths.iter().map(|path| path.written.as_str()).collect();
            let artifact = name.known().filter(|name| !name.is_empty()).map(|name| format!(" as {name}")).unwrap_or_default();
            let certain = paths.iter().all(|path| path.folder.as_deref().is_some_and(standing));
            (StopKind::HandOn, format!("{}{artifact}", folders.join(", ")), certain)
        }
        Effect::Download { name, into, .. } => {
            let what = name.known().map_or_else(|| "all artifacts".to_owned(), str::to_owned);
            let into = if into.as_deref() == Some("") { String::new() } else { format!(" into {}", named(into)) };
            (StopKind::Fetch, format!("{what}{into}"), true)
        }
        Effect::Publish { folder, artifact, target, .. } => {
            let what = match (folder, artifact.as_ref().and_then(|artifact| artifact.known())) {
                (Some(folder), _) if folder.written == "." => case.only_fetched(job).unwrap_or(&folder.written).to_owned(),
                (Some(folder), _) => folder.written.clone(),
                (None, Some(artifact)) => artifact.to_owned(),
                (None, None) => "the site".to_owned(),
            };
            let certain = folder.as_ref().is_none_or(|folder| folder.folder.as_deref().is_some_and(standing));
            (StopKind::Publish, format!("{what} to {target}"), certain)
        }
        _ => return None,
    })
}

/// Where it can be looked at, as far as that can be worked out.
fn end_of(case: &Case<'_>, published: &Published<'_>) -> String {
    let base = case.facts.settings.site.base.as_ref().map(|base| base.name.clone());
    let domain = case
        .facts
        .hosting
        .iter()
        .find_map(|hosting| hosting.line.as_ref().filter(|_| hosting.path.ends_with("CNAME")).map(|(line, _)| line.clone()));
    let own_pages =
        published.is_forge_pages() || published.branch.is_some_and(|branch| published.place == Some(&format!("branch {branch}")));
    if let (Some(domain), true) = (&domain, own_pages) {
        return format!("https://{domain}{}", base.as_deref().unwrap_or("/"));
    }
    let remote = case.facts.git.remote.known();
    let pages = remote.and_then(|remote| knowledge::forges().pages_of(&remote.host).map(|pages| (remote, pages)));
    if let (Some((remote, pages)), true) = (pages, own_pages) {
        let host = pages.host.replace("{owner}", &remote.owner.to_ascii_lowercase());
        let at_root = remote.name.eq_ignore_ascii_case(&host);
        let path = base.unwrap_or_else(|| if at_root { "/".to_owned() } else { format!("/{}/", remote.name) });
        return format!("https://{host}{path}");
    }
    let place = published.place.map_or_else(
        || format!("{}, where exactly is not known", published.target),
        |place| place.replacen("branch ", "the branch ", 1),
    );
    // The name of a project or a service says little without its host.
    let host = published.target.to_string();
    let bare = matches!(published.target, Target::Host(_)) && !place.contains(host.as_str()) && !place.contains(['.', '/', '@']);
    let place = if bare { format!("{host}, {place}") } else { place };
    match base {
        Some(base) if own_pages => format!("{place}, served under {base}"),
        _ => place,
    }
}
