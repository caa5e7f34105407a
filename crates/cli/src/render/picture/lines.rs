//! The lines of a way: what runs from where to where, in which form, and by which gaps between the columns.

use std::collections::{HashMap, HashSet};

use dulk_core::views::{PERHAPS, StopAt, Way};

use indexmap::IndexSet;

use super::job::Reach;
use super::plan::{Plan, Thing};

/// How far apart lines run beside each other, in pixels.
pub const LANE: i32 = 8;
/// With more jobs than this, only the nearest of those that a job waits for are joined with it.
const JOINED: usize = 40;
/// With more waits than this, nobody could follow the lines: one for each job says that it comes later.
const WAITS: usize = 1_000;

/// The form of a line.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Form {
    /// The files come this way.
    Sure,
    /// They may.
    Perhaps,
    /// They would, if the way did not break before.
    Lost,
    /// No files come this way: one job waits for another.
    Wait,
}

/// Which end of a line is barred.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bar {
    /// None.
    No,
    /// Where it begins.
    Start,
    /// Where it ends.
    End,
}

/// Where a line meets a thing: pixels below the top of its row.
type Port = (Thing, i32);

/// A line from one thing to another, at pixels below the tops of their rows.
#[derive(Clone, Copy, Debug)]
pub struct Edge {
    /// From here.
    pub from: Port,
    /// To here.
    pub to: Port,
    /// How it looks.
    pub form: Form,
    /// Whether it ends on the way.
    pub bar: Bar,
    /// Lines with the same of this and the same form run as one where they can.
    pub bundle: Port,
}

impl Edge {
    /// One that runs together with all that begin where it does.
    fn new(from: Port, to: Port, (form, bar): (Form, Bar)) -> Self {
        Self { from, to, form, bar, bundle: from }
    }
}

/// Where lines run beside each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Channel {
    /// Up and down before a column.
    Before(usize),
    /// Up and down behind the last column of a row.
    Behind(usize),
    /// Across below a row.
    Under(usize),
    /// Across above a row.
    Over(usize),
    /// Up and down along the left edge.
    Side,
}

/// All lines of a way.
pub fn edges(way: &Way, plan: &Plan) -> Vec<Edge> {
    let mut found = from_source(way, plan);
    found.extend(handed_on(way, plan));
    found.extend(waits(way, plan));
    for (number, end) in way.ends.iter().enumerate() {
        found.extend(end.at.map(|at| arriving(at, number, plan)));
    }
    found
}

/// The gaps that a line uses, in its order.
pub fn channels(edge: &Edge, plan: &Plan) -> Vec<Channel> {
    let (from, to) = (plan.place_of(edge.from.0).0, plan.place_of(edge.to.0).0);
    let (here, there) = (plan.columns[from].row, plan.columns[to].row);
    if from + 1 == to && here == there {
        return vec![Channel::Before(to)];
    }
    let next = plan.columns.get(from + 1).is_some_and(|column| column.row == here);
    let leave = if next { Channel::Before(from + 1) } else { Channel::Behind(here) };
    let arrive = Channel::Before(to);
    if here == there && edge.form == Form::Wait {
        return vec![leave, Channel::Over(here), arrive];
    }
    if there == here || there == here + 1 {
        return vec![leave, Channel::Under(here), arrive];
    }
    let above = if there > here { there - 1 } else { there };
    vec![leave, Channel::Under(here), Channel::Side, Channel::Under(above), arrive]
}

/// The lanes of all lines: those of one bundle share theirs.
#[derive(Default)]
pub struct Lanes {
    taken: HashMap<Channel, IndexSet<(Port, Form)>>,
}

impl Lanes {
    /// Gives a line a lane in a gap.
    pub fn take(&mut self, channel: Channel, edge: &Edge) {
        self.taken.entry(channel).or_default().insert((edge.bundle, edge.form));
    }

    /// How many lanes a gap has.
    pub fn count(&self, channel: Channel) -> i32 {
        self.taken.get(&channel).map_or(0, |own| i32::try_from(own.len()).unwrap_or(i32::MAX / 100))
    }

    /// The number of a line's lane in a gap.
    pub fn of(&self, channel: Channel, edge: &Edge) -> i32 {
        let found = self.taken.get(&channel).and_then(|own| own.get_index_of(&(edge.bundle, edge.form)));
        found.map_or(0, |lane| i32::try_from(lane).unwrap_or(0))
    }
}

/// The line to an address; nothing new comes there when a later step of the job fails.
fn arriving(at: StopAt, end: usize, plan: &Plan) -> Edge {
    let reach = plan.reach(at);
    let fails = reach == Reach::Reached && matches!(plan.jobs[at.leg].last_reach(), Reach::Broken | Reach::Lost);
    let (form, bar) = if fails { (Form::Lost, Bar::No) } else { leaving(reach) };
    let to = Thing::End(end);
    Edge::new((Thing::Job(at.leg), plan.port(at)), (to, middle(plan, to)), (form, bar))
}

fn middle(plan: &Plan, thing: Thing) -> i32 {
    plan.place_of(thing).1 + plan.height(thing) / 2
}

fn head(plan: &Plan, job: usize) -> i32 {
    plan.place_of(Thing::Job(job)).1 + plan.jobs[job].head_port()
}

/// The form of a line that begins at a stop.
fn leaving(reach: Reach) -> (Form, Bar) {
    match reach {
        Reach::Reached => (Form::Sure, Bar::No),
        Reach::Perhaps => (Form::Perhaps, Bar::No),
        Reach::Broken => (Form::Lost, Bar::Start),
        Reach::Lost => (Form::Lost, Bar::No),
    }
}

/// What starts the jobs that wait for no other.
fn from_source(way: &Way, plan: &Plan) -> Vec<Edge> {
    let sure = way.events.iter().any(|event| !event.starts_with(PERHAPS));
    let (form, bar) = match (&way.broken, sure) {
        (Some(_), _) => (Form::Lost, Bar::Start),
        (None, true) => (Form::Sure, Bar::No),
        (None, false) => (Form::Perhaps, Bar::No),
    };
    let first = way.legs.iter().enumerate().filter(|(_, leg)| leg.waits_for.is_empty());
    // As high as the first job's head, so that the line to that is straight.
    let at = if plan.jobs.is_empty() { 0 } else { head(plan, 0) };
    let edge = |(job, _)| Edge::new((Thing::Source, at), (Thing::Job(job), head(plan, job)), (form, bar));
    first.map(edge).collect()
}

fn handed_on(way: &Way, plan: &Plan) -> Vec<Edge> {
    let mut found = Vec::new();
    for (number, parcel) in way.parcels.iter().enumerate() {
        let thing = Thing::Parcel(number);
        let here = (thing, middle(plan, thing));
        let (form, bar) = leaving(plan.reach(parcel.from));
        found.push(Edge::new((Thing::Job(parcel.from.leg), plan.port(parcel.from)), here, (form, bar)));
        for taker in &parcel.to {
            let ends = if plan.reach(*taker) == Reach::Broken { (Form::Lost, Bar::End) } else { (form, Bar::No) };
            found.push(Edge::new(here, (Thing::Job(taker.leg), plan.port(*taker)), ends));
        }
    }
    found
}

/// Jobs that wait for others and take nothing from them.
fn waits(way: &Way, plan: &Plan) -> Vec<Edge> {
    let numbers: HashMap<&str, usize> = way.legs.iter().enumerate().map(|(number, leg)| (leg.id.as_str(), number)).collect();
    let takes: HashSet<(usize, usize)> =
        way.parcels.iter().flat_map(|one| one.to.iter().map(|to| (one.from.leg, to.leg))).collect();
    let mut pairs = Vec::new();
    for (job, leg) in way.legs.iter().enumerate() {
        for other in leg.waits_for.iter().filter_map(|name| numbers.get(name.as_str()).copied()) {
            let near = way.legs.len() <= JOINED || way.legs[other].wave + 1 == leg.wave;
            if near && !takes.contains(&(other, job)) {
                pairs.push((other, job));
            }
        }
    }
    if pairs.len() > WAITS {
        pairs.dedup_by_key(|(_, job)| *job);
    }
    let (mut leave, mut arrive): (HashMap<usize, usize>, HashMap<usize, usize>) = (HashMap::new(), HashMap::new());
    for (other, job) in &pairs {
        *leave.entry(*other).or_default() += 1;
        *arrive.entry(*job).or_default() += 1;
    }
    let edge = |(other, job): (usize, usize)| {
        let (from, to) = ((Thing::Job(other), head(plan, other)), (Thing::Job(job), head(plan, job)));
        // Many that end at one job run together from where they meet.
        let bundle = if arrive[&job] > leave[&other] { to } else { from };
        Edge { bundle, ..Edge::new(from, to, (Form::Wait, Bar::No)) }
    };
    pairs.into_iter().map(edge).collect()
}
