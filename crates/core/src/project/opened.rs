//! A pipeline with the jobs of all that it calls in the place of the calls.

use super::Project;
use crate::formats::Prepared;
use crate::model::{Call, Inputs, Job, Pipeline, Text, Work, Workspace};
use crate::text::FileId;

/// Calls in calls are followed this far, as far as forges follow them.
const CALL_DEPTH: usize = 4;
/// More jobs are no honest run.
const JOB_LIMIT: usize = 200;

impl Project<'_> {
    /// A pipeline with the jobs of what it calls in this repository standing in it, their inputs filled in, and behind it the actions
    /// that they run. A call stays as a job that does nothing, so that its condition and its needs hold for what stands in it; what
    /// waits for the call waits for all of that. Nothing where it calls nothing of this repository.
    pub fn opened(&self, index: usize) -> Option<Vec<Prepared>> {
        let own = &self.prepared[index];
        own.pipeline.jobs.iter().find_map(|job| self.callee(job.call.as_ref()?))?;
        let pipeline = self.open(&own.pipeline, CALL_DEPTH);
        let mut files: Vec<FileId> = pipeline.jobs.iter().filter(|job| job.within.is_some()).map(|job| job.id.at.file).collect();
        files.sort_unstable();
        files.dedup();
        let called = files.iter().filter_map(|file| self.find(&self.sources.get(*file).path));
        let mut form = own.form.clone();
        form.extend(called.flat_map(|callee| self.prepared[callee].form.iter().cloned()));
        let mut opened = vec![Prepared { form, ..prepared(pipeline, own.whole) }];
        let mut next = 0;
        while let Some(one) = opened.get(next) {
            next += 1;
            for action in self.actions_of(&one.pipeline) {
                if opened.iter().all(|known| known.pipeline.file != action.file) {
                    opened.push(prepared(action.clone(), true));
                }
            }
        }
        Some(opened)
    }

    /// The actions of this repository that a pipeline runs.
    fn actions_of(&self, pipeline: &Pipeline) -> Vec<&Pipeline> {
        let steps = pipeline.jobs.iter().flat_map(|job| &job.steps);
        let named = steps.filter_map(|step| match &step.work {
            Work::Uses { found, .. } => self.action(found),
            _ => None,
        });
        named.collect()
    }

    /// The pipeline that a call names, with the inputs that it is given.
    pub(super) fn with_given(&self, call: &Call) -> Option<Pipeline> {
        let callee = &self.prepared[self.callee(call)?].pipeline;
        Some(Inputs::of_call(&callee.interface.as_ref()?.inputs, &call.inputs).fill(callee))
    }

    fn open(&self, pipeline: &Pipeline, depth: usize) -> Pipeline {
        let mut opened = Pipeline { jobs: Vec::new(), ..pipeline.clone() };
        let mut stands_in: Vec<(String, Vec<Text>)> = Vec::new();
        // The number that each job has here.
        let mut now: Vec<usize> = Vec::new();
        for job in &pipeline.jobs {
            now.push(opened.jobs.len());
            let goes_on = depth > 0 && opened.jobs.len() < JOB_LIMIT;
            let Some(callee) = job.call.as_ref().filter(|_| goes_on).and_then(|call| self.with_given(call)) else {
                opened.jobs.push(job.clone());
                continue;
            };
            opened.jobs.push(Job { call: None, ..job.clone() });
            let inner = self.open(&callee, depth - 1);
            let first = opened.jobs.len();
            let inside: Vec<Job> = inner.jobs.iter().map(|inner_job| standing_in(job, &callee, inner_job, first)).collect();
            stands_in.push((job.id.value.to_ascii_lowercase(), inside.iter().map(|job| job.id.clone()).collect()));
            opened.jobs.extend(inside);
        }
        for number in &now {
            if let Workspace::Of(other) = &mut opened.jobs[*number].workspace {
                *other = now.get(*other).copied().unwrap_or(*other);
            }
        }
        for job in &mut opened.jobs {
            let own: Vec<Text> = job.needs.clone();
            let added = own.iter().filter_map(|need| stands_in.iter().find(|(call, _)| need.value.eq_ignore_ascii_case(call)));
            let added: Vec<Text> = added
                .filter(|(call, _)| job.within.as_ref().is_none_or(|within| !within.value.eq_ignore_ascii_case(call)))
                .flat_map(|(_, ids)| ids.iter().map(|id| Text::fixed(&id.value, job.needs_at.unwrap_or(job.id.at))))
                .collect();
            job.needs.extend(added);
        }
        opened.index_jobs();
        opened
    }
}

/// A job of a called pipeline as it stands in the caller's place, where the jobs of that begin with the number `first`.
fn standing_in(call: &Job, callee: &Pipeline, job: &Job, first: usize) -> Job {
    let named = |id: &str, at| Text::fixed(&format!("{} / {id}", call.id.value), at);
    let mut needs: Vec<Text> = job.needs.iter().map(|need| named(&need.value, need.at)).collect();
    needs.push(Text::fixed(&call.id.value, call.id.at));
    let mut variables = job.variables.clone();
    let shadowed = |name: &str| job.variables.entries.iter().any(|(known, _)| known.value == name);
    variables.entries.extend(callee.variables.entries.iter().filter(|(name, _)| !shadowed(&name.value)).cloned());
    variables.open |= callee.variables.open;
    Job {
        id: named(&job.id.value, job.id.at),
        within: Some(Box::new(call.id.clone())),
        needs,
        variables,
        workspace: match job.workspace {
            Workspace::Of(other) => Workspace::Of(first + other),
            own => own,
        },
        matrix: job.matrix.clone().or_else(|| call.matrix.clone()),
        permissions: job.permissions.clone().or_else(|| callee.permissions.clone()).or_else(|| call.permissions.clone()),
        ..job.clone()
    }
}

/// What stands for a file that was read.
fn prepared(pipeline: Pipeline, whole: bool) -> Prepared {
    Prepared { pipeline, form: Vec::new(), acceptances: Vec::new(), whole }
}
