//! From the blocks of a `Jenkinsfile` to the model.

use super::language::{Block, Source};
use super::stages::{Builder, Surroundings};
use super::text::Words;
use super::{environment, starts, steps};
use crate::form::FormIssue;
use crate::model::{Job, Lock, Pipeline, Text};

/// The body of the pipeline, when the file is a declarative one.
pub(super) fn body(source: &Source) -> Option<&Block> {
    source.top.block("pipeline")
}

/// Reads the file, and says what does not fit in the way of its stages.
pub(super) fn read(words: Words<'_>, source: &Source) -> (Pipeline, Vec<FormIssue>) {
    let mut pipeline = Pipeline::empty(words.file, super::FORMAT, &super::data().customs);
    let Some(body) = body(source) else {
        pipeline.partial = true;
        starts::read(words, &mut pipeline, &Block::default());
        return (pipeline, Vec::new());
    };
    starts::read(words, &mut pipeline, body);
    pipeline.lock = lock(words, body);
    pipeline.on_request = environment::bound(words, body);
    parameters(words, body, &mut pipeline);
    let mut stashed = Vec::new();
    steps::stashed(body, words, &Some(String::new()), &mut stashed);
    let mut builder = Builder::new(words, &stashed);
    let mut own = builder.inside(body, &Surroundings::default());
    // What all steps see stands once, and not at each of them.
    let mut variables = own.take_variables();
    variables.entries.append(&mut pipeline.variables.entries);
    pipeline.variables = variables;
    if let Some(stages) = body.block("stages") {
        builder.stages(stages, &own);
    }
    if let Some(post) = body.get("post")
        && let Some(block) = &post.block
    {
        builder.post_of_all(block, &own, words.at(&post.name_at));
    }
    let tools = body.block("tools").and_then(|tools| builder.tools(tools));
    let issues = std::mem::take(&mut builder.issues);
    let mut jobs = builder.finish();
    for job in &mut jobs {
        first_tools(job, tools.as_ref());
    }
    pipeline.jobs = jobs;
    (pipeline, issues)
}

/// Tools of the whole pipeline are made ready on each agent, before anything else runs there.
fn first_tools(job: &mut Job, tools: Option<&crate::model::Step>) {
    let Some(tools) = tools else { return };
    if job.workspace.of().is_none() && job.machine.image.is_none() {
        // The step that brings the files stands first, and brings the tools along.
        if let (Some(first), crate::model::Work::ByItself(own)) = (job.steps.first_mut(), &tools.work)
            && let crate::model::Work::ByItself(sources) = &mut first.work
        {
            sources.effects.extend(own.effects.iter().cloned());
        }
    }
}

/// One build at a time.
fn lock(words: Words<'_>, body: &Block) -> Option<Lock> {
    let option = body.block("options")?.get("disableConcurrentBuilds")?;
    let at = words.at(&option.range);
    let cancels = option.argument("abortPrevious").and_then(|value| words.value(value));
    Some(Lock { at, group: Text::fixed("Jenkinsfile", at), cancels })
}

/// Parameters are variables of the environment too.
fn parameters(words: Words<'_>, body: &Block, pipeline: &mut Pipeline) {
    let Some(block) = body.block("parameters") else { return };
    for parameter in &block.statements {
        let Some(value) = parameter.argument("name") else { continue };
        let Some(name) = words.value(value) else { continue };
        pipeline.variables.entries.push((name, words.dark(&value.range())));
    }
}
