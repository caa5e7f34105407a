//! What a job puts online when its script has succeeded.
//!
//! After the pages "Deployment" and "Deployment (v2)": one provider or several, each with the keys of its own; the older generation takes
//! away all that git does not track before it looks at the folder, unless it is told not to, the newer one does not.

use super::jobs::Plan;
use super::phases;
use super::when;
use crate::effects::Effect;
use crate::formats::keys::{Keys, listed};
use crate::formats::published;
use crate::model::{ByItself, Cond, Outcome, Shell, Step, Work};
use crate::text::Place;

/// More publishes are no honest job.
const PUBLISH_LIMIT: usize = 50;

/// All that is published, with the phases round it.
pub(super) fn steps(plan: &Plan<'_>) -> Vec<Step> {
    let Some(node) = plan.get("deploy") else { return Vec::new() };
    let nodes = plan.nodes();
    let list: Vec<Keys<'_>> = listed(&nodes, node)
        .into_iter()
        .map(|item| Keys::of(nodes, item))
        .filter(|keys| keys.iter().next().is_some())
        .take(PUBLISH_LIMIT)
        .collect();
    let conditions: Vec<Cond> = list.iter().map(|keys| when::of_publish(keys, plan, place(keys))).collect();
    // The phases round it are run when one of them is.
    let around = match conditions.as_slice() {
        [] => return Vec::new(),
        [only] => only.clone(),
        several => Cond::Any(several.to_vec()),
    };
    let phase = |name: &str| {
        let written = plan.get(name)?;
        Some(Step { when: Some(around.clone()), ..phases::of_phase(plan, name, written, Outcome::Success)? })
    };
    let mut steps: Vec<Step> = phase("before_deploy").into_iter().collect();
    for (keys, cond) in list.iter().zip(conditions) {
        steps.extend(step(keys).map(|step| Step { when: Some(cond), ..step }));
    }
    steps.extend(phase("after_deploy"));
    steps
}

/// Where a publish stands: the word for it.
fn place(keys: &Keys<'_>) -> Place {
    keys.text("provider").map(|text| text.at).or_else(|| keys.iter().next().map(|(key, _)| keys.nodes.at(key))).unwrap_or(
        // A mapping without keys is none.
        Place { file: keys.nodes.file, span: crate::text::Span::default() },
    )
}

fn step(keys: &Keys<'_>) -> Option<Step> {
    let at = place(keys);
    let provider = keys.text("provider")?;
    if provider.value == "script" {
        let script = crate::formats::joined(phases::lines(&keys.nodes, keys.get("script")?))?;
        let (own, shell) = (script.at, Shell::Posix);
        return Some(Step { cleans: cleans(keys, at), ..Step::new(own, Work::Runs { shell, script }) });
    }
    let word = provider_word(&provider.value);
    let known = super::data().publisher.iter().find(|publisher| publisher.name == word);
    let own = known.map_or_else(|| unknown(at), |known| published::publish(keys, known, at));
    Some(Step { name: Some(provider), cleans: cleans(keys, at), ..Step::new(at, Work::ByItself(own)) })
}

/// A provider's name as the list has it: `Netlify` and `azure-web-apps` are written like that too.
pub(super) fn provider_word(written: &str) -> String {
    written.to_ascii_lowercase().replace('-', "_")
}

/// Whatever it is, it changes nothing of the job's files.
fn unknown(at: Place) -> ByItself {
    ByItself::of(Effect::Nothing, at)
}

/// Where all that git does not track is taken away first, when it surely is. Source: the pages "Deployment", uploading files and
/// `skip_cleanup`, and "Deployment (v2)", cleaning up the git working directory, 2026-11.
fn cleans(keys: &Keys<'_>, at: Place) -> Option<Place> {
    let newer = keys.pair("edge").is_some() && !keys.says("edge", "false");
    let told = keys.text("cleanup");
    match (newer, keys.text("skip_cleanup"), told) {
        (true, _, told) => told.filter(|told| told.value == "true").map(|told| told.at),
        (false, Some(skips), _) => (skips.value == "false").then_some(skips.at),
        // The older generation does not know the newer one's key.
        (false, None, told) => Some(told.map_or(at, |told| told.at)),
    }
}
