//! What the texts of a pipeline read when it runs: one index for all formats, so that no rule knows how a format writes a read.
//!
//! A format with contexts (`${{ secrets.NAME }}`) says of each read what it is. In one where everything is a variable (`$NAME`) the name
//! decides, with all that may set it: the pipeline itself, the run, the forge, a script or the image. Whatever nobody can tell stays
//! [`Read::Unknown`].

use std::collections::{HashMap, HashSet};
use std::ops::Range;

use crate::expression::Expr;
use crate::facts::{Facts, Named};
use crate::knowledge::{self, Run};
use crate::model::{Condition, Job, Pipeline, Text, Work};
use crate::shell::variable_reads;
use crate::text::Place;

/// What is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Read {
    /// A secret that the forge keeps under this name, or should.
    Secret,
    /// The job's own token.
    OwnToken,
    /// A variable that the forge keeps under this name, or should.
    ForgeVariable,
    /// A name of the forge of which nothing but the name is known: no secret and no variable is called so, and neither the pipeline nor
    /// the run sets it.
    Unheld,
    /// A variable that the pipeline sets.
    Variable,
    /// What the run knows of itself.
    Run(RunFact),
    /// A key of the job's matrix.
    Axis,
    /// What another step of the job gives; its name is the step's.
    StepOutput,
    /// What another job gives; its name is the job's.
    JobOutput,
    /// A variable that the forge used to set, and no longer does.
    Gone,
    /// A variable that the forge does not set, under a name that is nearly one of those that it does.
    Misnamed,
    /// Anything else, or nobody can tell.
    Unknown,
}

/// What a run knows of itself, as far as rules ask.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum RunFact {
    /// The commit, or anything else that is another one for each push.
    Commit,
    /// The run, or anything else that is another one for each run.
    Run,
    /// The branch or tag.
    Ref,
    /// The system that the job runs on.
    Os,
    /// The job or the pipeline by its name: the same in every run.
    Job,
    /// Anything else.
    Other,
}

impl RunFact {
    /// The fact of a word of the catalog.
    fn of(word: &str) -> Self {
        match word {
            "commit" => Self::Commit,
            "run" => Self::Run,
            "ref" => Self::Ref,
            "os" => Self::Os,
            "job" => Self::Job,
            _ => Self::Other,
        }
    }

    /// It is never the same twice.
    pub fn is_new_each_time(self) -> bool {
        matches!(self, Self::Commit | Self::Run)
    }
}

/// Where a read stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ReadIn {
    /// A condition of the run, a job or a step.
    Condition,
    /// A script, where the machine may set variables of its own.
    Script,
    /// The value of a variable, an input, a path, a key or a name.
    Value,
}

/// One read.
#[derive(Clone, Debug)]
pub struct ReadAt {
    /// What is read.
    pub read: Read,
    /// By which name, as written and without what stands before it.
    pub name: String,
    /// The job that it stands in; nothing for what stands above all jobs.
    pub job: Option<usize>,
    /// The step in it; nothing for what is the job's own.
    pub step: Option<usize>,
    /// Where it stands.
    pub within: ReadIn,
    /// The whole read without braces or dollar: `secrets.NAME`, or `NAME`.
    pub at: Place,
    /// The text that it stands in.
    pub text_at: Place,
    /// It is all that its text holds.
    pub alone: bool,
    /// Its value is filled in as it is, and nothing is made of it first.
    pub plain: bool,
    /// Its bytes in that text, braces and dollar included.
    pub range: Range<usize>,
}

impl ReadAt {
    /// It is the whole value of a text.
    pub fn is_all_of(&self, text: &Text) -> bool {
        self.alone && self.text_at == text.at
    }
}

/// All reads of a pipeline, in the order of its texts.
#[derive(Debug)]
pub struct Reads {
    list: Vec<ReadAt>,
    by_text: HashMap<Place, Vec<usize>>,
}

impl Reads {
    fn new(list: Vec<ReadAt>) -> Self {
        let mut by_text: HashMap<Place, Vec<usize>> = HashMap::new();
        for (number, read) in list.iter().enumerate() {
            by_text.entry(read.text_at).or_default().push(number);
        }
        Self { list, by_text }
    }

    /// What the text at a place reads. A text that several jobs take over stands in each of them.
    pub fn of_text(&self, at: Place) -> impl Iterator<Item = &ReadAt> {
        self.by_text.get(&at).into_iter().flatten().map(|number| &self.list[*number])
    }
}

impl std::ops::Deref for Reads {
    type Target = [ReadAt];

    fn deref(&self) -> &[ReadAt] {
        &self.list
    }
}

/// Reads a pipeline's texts.
pub(super) fn of(pipeline: &Pipeline, facts: &Facts) -> Reads {
    let run = pipeline.run();
    let mut reader =
        Reader { pipeline, facts, run, found: Vec::new(), set: HashSet::new(), anything: false, told: HashSet::new() };
    reader.whole();
    Reads::new(reader.found)
}

/// A text with its place among jobs and steps.
#[derive(Clone, Copy)]
struct Spot<'t> {
    job: Option<usize>,
    step: Option<usize>,
    within: ReadIn,
    text: &'t Text,
}

struct Reader<'p> {
    pipeline: &'p Pipeline,
    facts: &'p Facts,
    run: &'static Run,
    found: Vec<ReadAt>,
    /// Names that the pipeline sets for the job that is being read.
    set: HashSet<&'p str>,
    /// Something that is not known may set any name for it.
    anything: bool,
    /// Where credentials stand that have been found.
    told: HashSet<Place>,
}

impl<'p> Reader<'p> {
    fn whole(&mut self) {
        let pipeline = self.pipeline;
        self.know(None);
        let value = |text| Spot { job: None, step: None, within: ReadIn::Value, text };
        pipeline.variables.entries.iter().for_each(|(_, text)| self.text(value(text)));
        pipeline.lock.iter().for_each(|lock| self.text(value(&lock.group)));
        for condition in pipeline.conditions() {
            self.condition(value(&condition.text), condition);
        }
        for (number, job) in pipeline.jobs.iter().enumerate() {
            self.know(Some(job));
            self.job(number, job);
        }
    }

    /// Collects the names that are set for a job.
    fn know(&mut self, job: Option<&'p Job>) {
        self.set.clear();
        if !self.pipeline.customs.reads_variables {
            return;
        }
        let pipeline = self.pipeline;
        let choices = pipeline.choices.iter().chain(job.into_iter().flat_map(|job| &job.when.choices));
        let layers = std::iter::once(&pipeline.variables)
            .chain(job.map(|job| &job.variables))
            .chain(choices.map(|choice| &choice.variables));
        self.anything = pipeline.partial;
        for layer in layers {
            self.anything |= layer.open;
            self.set.extend(layer.entries.iter().map(|(name, _)| name.value.as_str()));
        }
        let Some(job) = job else { return };
        self.anything |= job.variables_from_others;
        self.set.extend(job.handed.iter().map(|name| name.value.as_str()));
        self.set.extend(job.matrix.iter().flat_map(|matrix| &matrix.names).map(|name| name.value.as_str()));
        self.anything |= job.matrix.as_ref().is_some_and(|matrix| matrix.open && matrix.names.is_empty());
        for step in &job.steps {
            if let Work::Runs { script, .. } = &step.work {
                self.anything |= crate::shell::sets_unknown_variables(&script.value);
                self.set.extend(crate::shell::variables_set(&script.value));
            }
        }
    }

    fn job(&mut self, number: usize, job: &'p Job) {
        let spot = |text| Spot { job: Some(number), step: None, within: ReadIn::Value, text };
        for one in job.conditions() {
            self.condition(spot(&one.text), one);
        }
        let texts = job
            .environment
            .as_deref()
            .into_iter()
            .chain(&job.machine.image)
            .chain(&job.machine.runners)
            .chain(job.lock.iter().map(|lock| &lock.group));
        texts.for_each(|text| self.text(spot(text)));
        let values = job.variables.entries.iter().chain(&job.outputs).map(|(_, text)| text);
        values.for_each(|text| self.text(spot(text)));
        let axes = job.matrix.iter().flat_map(|matrix| matrix.axes.iter().flat_map(|(_, values)| values));
        axes.for_each(|text| self.text(spot(text)));
        if let Some(call) = &job.call {
            let handed = call.inputs.entries.iter().chain(&call.secrets.entries);
            handed.for_each(|(_, text)| self.text(spot(text)));
        }
        for (step_number, step) in job.steps.iter().enumerate() {
            let inner = |text| Spot { step: Some(step_number), ..spot(text) };
            step.conditions().for_each(|one| self.condition(inner(&one.text), one));
            step.name.iter().chain(step.directory.as_deref()).for_each(|text| self.text(inner(text)));
            step.variables.entries.iter().for_each(|(_, text)| self.text(inner(text)));
            for key in step.keys.iter().filter(|key| key.known().is_some()) {
                // A block that is given it holds many steps.
                if !self.told.insert(key.at) {
                    continue;
                }
                self.found.push(ReadAt {
                    alone: true,
                    plain: true,
                    ..read_at(inner(key), Read::Secret, &key.value, 0..key.value.len())
                });
            }
            match &step.work {
                Work::Uses { inputs, .. } => inputs.entries.iter().for_each(|(_, text)| self.text(inner(text))),
                Work::Runs { script, .. } => self.text(Spot { within: ReadIn::Script, ..inner(script) }),
                Work::ByItself(own) => own.texts.iter().for_each(|text| self.text(inner(text))),
                Work::RunsImage { words } => words.iter().for_each(|text| self.text(inner(text))),
                Work::Gate | Work::Unclear | Work::Nothing => {}
            }
        }
    }

    /// A condition's own text. Without braces, all of it is an expression, which the reader has parsed.
    fn condition(&mut self, spot: Spot<'_>, condition: &Condition) {
        let spot = Spot { within: ReadIn::Condition, ..spot };
        match condition.expression().filter(|_| !self.pipeline.customs.reads_variables && !condition.text.is_dynamic()) {
            Some(expression) => self.expression(spot, expression, true, None),
            None => self.text(spot),
        }
    }

    fn text(&mut self, spot: Spot<'_>) {
        if self.pipeline.customs.reads_variables { self.variables(spot) } else { self.contexts(spot) }
    }

    /// `${{ secrets.NAME }}`
    fn contexts(&mut self, spot: Spot<'_>) {
        for hole in spot.text.holes() {
            let whole = spot.text.value.trim().len() == hole.range.len();
            if let Ok(expression) = &hole.inside {
                self.expression(spot, expression, whole, Some(&hole.range));
            }
        }
    }

    fn expression(&mut self, spot: Spot<'_>, expression: &Expr, whole: bool, braces: Option<&Range<usize>>) {
        super::case::paths(expression, &mut |path| {
            let ([(context, start), (name, _), ..], Some((_, end))) = (path, path.last()) else { return };
            let read = match context.to_ascii_lowercase().as_str() {
                "secrets" if self.pipeline.customs.is_own_token(name) => Read::OwnToken,
                "secrets" if self.pipeline.customs.switches.iter().any(|known| known.eq_ignore_ascii_case(name)) => Read::Unknown,
                "secrets" => Read::Secret,
                "vars" => Read::ForgeVariable,
                "github" | "gitea" | "forgejo" if name.eq_ignore_ascii_case("token") => Read::OwnToken,
                "github" | "gitea" | "forgejo" | "runner" | "job" => Read::Run(self.fact(&format!("{context}.{name}"))),
                "matrix" => Read::Axis,
                "steps" => Read::StepOutput,
                "needs" => Read::JobOutput,
                "env" => Read::Variable,
                _ => Read::Unknown,
            };
            let plain = start.start <= expression.range.start && expression.range.end <= end.end;
            let alone = whole && plain;
            let own = start.start..end.end;
            let range = braces.cloned().unwrap_or_else(|| own.clone());
            self.found.push(ReadAt { alone, plain, range, ..read_at(spot, read, name, own) });
        });
    }

    /// `$NAME`
    fn variables(&mut self, spot: Spot<'_>) {
        let value = spot.text.value.as_str();
        for (name, range) in variable_reads(value, spot.within == ReadIn::Script) {
            let read = self.read_of(spot, name, value, &range);
            let sigil = range.len() == name.len() + 1 || range.len() == name.len() + 3;
            let alone = sigil && value.trim().len() == range.len();
            let start = range.start + if value[range.start..].starts_with("${") { 2 } else { 1 };
            let own = start..start + name.len();
            self.found.push(ReadAt { alone, plain: sigil, range, ..read_at(spot, read, name, own) });
        }
    }

    fn read_of(&self, spot: Spot<'_>, name: &str, value: &str, range: &Range<usize>) -> Read {
        let forge = &self.facts.settings.forge;
        let has = |list: &Option<Vec<Named>>| list.iter().flatten().any(|named| named.name == name);
        let of_environments = || forge.environments.values().any(|one| has(&one.secrets));
        if self.pipeline.customs.is_own_token(name) {
            return Read::OwnToken;
        }
        let axes = spot.job.and_then(|job| self.pipeline.jobs[job].matrix.as_ref());
        if axes.is_some_and(|matrix| matrix.names.iter().any(|axis| axis.value == name)) {
            return Read::Axis;
        }
        let of_step = spot.job.zip(spot.step).map(|(job, step)| &self.pipeline.jobs[job].steps[step].variables);
        if self.set.contains(name) || of_step.is_some_and(|own| own.entries.iter().any(|(known, _)| known.value == name)) {
            return Read::Variable;
        }
        if self.pipeline.customs.gone_variables.has(name) {
            return if self.anything { Read::Unknown } else { Read::Gone };
        }
        if self.run.own_starts.iter().any(|start| name.starts_with(start)) {
            let held = has(&forge.secrets) || has(&forge.variables);
            let misnamed = !held && !self.anything && self.run.meant_name(name).is_some();
            return if misnamed { Read::Misnamed } else { Read::Run(self.fact(name)) };
        }
        if has(&forge.secrets) || of_environments() {
            return Read::Secret;
        }
        if has(&forge.variables) {
            return Read::ForgeVariable;
        }
        // A default, as in `${NAME:-main}`, says that the name may be missing.
        let optional = value[range.clone()].contains([':', '-', '+', '?', '=']);
        let declared = forge.secrets.is_some() && forge.variables.is_some();
        // Machines and images set variables of their own; none of them sets a credential.
        let of_machine = spot.within == ReadIn::Script
            && !knowledge::credentials().names_one(name)
            && knowledge::nearest(name, forge.names()).is_none();
        let shouted =
            name.len() > 1 && name.bytes().all(|byte| byte.is_ascii_uppercase() || byte.is_ascii_digit() || byte == b'_');
        if declared && shouted && !optional && !self.anything && !of_machine { Read::Unheld } else { Read::Unknown }
    }
}

impl Reader<'_> {
    fn fact(&self, name: &str) -> RunFact {
        let found = self.run.facts.iter().find(|(known, _)| known.eq_ignore_ascii_case(name));
        found.map_or(RunFact::Other, |(_, word)| RunFact::of(word))
    }
}

fn read_at(spot: Spot<'_>, read: Read, name: &str, own: Range<usize>) -> ReadAt {
    ReadAt {
        read,
        name: name.to_owned(),
        job: spot.job,
        step: spot.step,
        within: spot.within,
        at: spot.text.place(own.clone()),
        text_at: spot.text.at,
        alone: false,
        plain: false,
        range: own,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::Slip;

    /// Every read of a pipeline: its name, what it is, and whether it is all of its text.
    fn reads(slip: &str) -> Vec<(String, Read, bool)> {
        let scene = Slip::read(slip).scene();
        let project = scene.project();
        project.case(0).reads.iter().map(|read| (read.name.clone(), read.read, read.alone)).collect()
    }

    #[test]
    fn contexts_say_what_a_read_is() {
        let found = reads(
            "== jobs\n  a:\n    if: github.ref_name == vars.LIVE\n    strategy:\n      matrix: {node: [20, 22]}\n    runs-on: ubuntu-latest\n    env:\n      \
             KEY: ${{ secrets.KEY }}\n      BOTH: ${{ secrets.GITHUB_TOKEN }}-${{ github.sha }}\n    steps:\n      - run: ./make ${{ matrix.node }} ${{ \
             steps.a.outputs.b }} ${{ runner.os }}\n",
        );
        let expected = [
            ("ref_name", Read::Run(RunFact::Ref), false),
            ("LIVE", Read::ForgeVariable, false),
            ("KEY", Read::Secret, true),
            ("GITHUB_TOKEN", Read::OwnToken, false),
            ("sha", Read::Run(RunFact::Commit), false),
            ("node", Read::Axis, false),
            ("a", Read::StepOutput, false),
            ("os", Read::Run(RunFact::Os), false),
        ];
        let found: Vec<(&str, Read, bool)> = found.iter().map(|(name, read, alone)| (name.as_str(), *read, *alone)).collect();
        assert_eq!(found, expected);
    }

    #[test]
    fn names_are_told_apart_by_whoever_may_set_them() {
        let found = reads(
            "== dulk.toml\n[forge]\nsecrets = [\"KEY\"]\nvariables = [\"HOST\"]\n== gitlab\nvariables:\n  OUT: $KEY\nbuild:\n  parallel:\n    matrix:\n      - \
             NODE: [\"20\"]\n  id_tokens: {ID: {aud: x}}\n  image: node:$NODE\n  variables:\n    FROM: $NOWHERE\n  script:\n    - MADE=$(date); echo $OUT \
             $HOST $MADE $ID $HOME $CI_COMMIT_SHA $CI_JOB_TOKEN $CI_BUILD_REF $SOME_TOKEN ${MAYBE_TOKEN:-}\n",
        );
        let of = |wanted: &str| found.iter().find(|(name, ..)| name == wanted).map(|(_, read, _)| *read);
        for (name, expected) in [
            ("KEY", Read::Secret),
            ("NODE", Read::Axis),
            ("NOWHERE", Read::Unheld),
            ("OUT", Read::Variable),
            ("HOST", Read::ForgeVariable),
            ("MADE", Read::Variable),
            ("ID", Read::Variable),
            ("HOME", Read::Unknown),
            ("CI_COMMIT_SHA", Read::Run(RunFact::Commit)),
            ("CI_JOB_TOKEN", Read::OwnToken),
            ("CI_BUILD_REF", Read::Gone),
            ("SOME_TOKEN", Read::Unheld),
            ("MAYBE_TOKEN", Read::Unknown),
        ] {
            assert_eq!(of(name), Some(expected), "{name}");
        }
    }

    #[test]
    fn what_may_set_any_name_leaves_names_unknown() {
        for part in [
            "  script: [source ./names.sh, ./publish $SOME_TOKEN]\n",
            "  script: [./publish $SOME_TOKEN]\nother:\n  script: [./make]\n  artifacts: {reports: {dotenv: made.env}}\n",
            "  script: [./publish $SOME_TOKEN]\ninclude: {project: pier/parts, file: all.yml}\n",
        ] {
            let slip = format!("== dulk.toml\n[forge]\nsecrets = []\nvariables = []\n== gitlab\nbuild:\n{part}");
            let found = reads(&slip).into_iter().find(|(name, ..)| name == "SOME_TOKEN");
            assert_eq!(found.map(|(_, read, _)| read), Some(Read::Unknown), "{part}");
        }
    }
}
