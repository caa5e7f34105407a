//! What may be written inside of `${{ … }}`, or after `$`.

use super::keys::Spot;
use super::{Desk, Offer, OfferKind, Offers, keep_first};
use crate::cursor::known_action;
use crate::knowledge::Declared;
use crate::model::{Callee, Job, Step, Variables, Work};
use crate::project::Read;
use crate::text::Span;

/// What may be written in the expression that a line ends in; nothing where it ends in none.
pub(super) fn offers(desk: &Desk<'_>, line: &str, spot: Option<&Spot>) -> Option<Offers> {
    if desk.pipeline.customs.reads_variables {
        return variables(desk, line);
    }
    let grammar = desk.grammar();
    let condition = spot.and_then(|spot| grammar.contexts(spot.contexts?)).is_some_and(|contexts| contexts.condition);
    let (opens, closes) = grammar.hole_signs()?;
    let inside = match line.rfind(opens) {
        Some(at) if !line[at..].contains(closes) => &line[at + opens.len()..],
        // A condition is an expression without braces, too.
        _ if condition && is_value_of_condition(line) => line.split_once(':').map_or("", |(_, value)| value),
        _ => return None,
    };
    let start = inside.rfind(|c: char| !(c.is_alphanumeric() || "_-.".contains(c))).map_or(0, |at| at + 1);
    let path = inside.get(start..)?;
    let (before, typed) = path.rsplit_once('.').unwrap_or(("", path));
    let parts: Vec<&str> = before.split('.').filter(|part| !part.is_empty()).collect();
    let list = if parts.is_empty() { contexts(desk, spot) } else { below(desk, &parts) };
    Some(Offers { instead_of: Span::new(desk.offset - typed.len(), desk.offset), list })
}

fn is_value_of_condition(line: &str) -> bool {
    line.split_once(':').is_some_and(|(key, _)| {
        key.trim_start().trim_start_matches("- ").chars().all(|c| c.is_alphanumeric() || "-_".contains(c))
    })
}

/// The contexts and functions that may be used here.
fn contexts(desk: &Desk<'_>, spot: Option<&Spot>) -> Vec<Offer> {
    let grammar = desk.grammar();
    let here = spot.and_then(|spot| grammar.contexts(spot.contexts?));
    let names = here.map_or(grammar.names.contexts, |contexts| contexts.names);
    let context = |name: &&str| Offer {
        insert: format!("{name}."),
        ..Offer::new(OfferKind::Read, *name, meaning(grammar.names.declared(name), name))
    };
    let functions = here.map_or(&[][..], |contexts| contexts.functions).iter().chain(grammar.names.everywhere);
    let takes_nothing = |name: &str| grammar.names.functions.get(name).is_some_and(|(least, _)| *least == 0);
    let call = |name: &str| if takes_nothing(name) { format!("{name}()") } else { format!("{name}(") };
    let function =
        |name: &&str| Offer { insert: call(name), ..Offer::new(OfferKind::Function, format!("{name}()"), "a function") };
    names.iter().map(context).chain(functions.map(function)).collect()
}

fn meaning(declared: Option<Declared>, name: &str) -> &'static str {
    match (declared, name) {
        (Some(Declared::Jobs), _) => "what the jobs give that this one waits for",
        (Some(Declared::Steps), _) => "what the steps before this one give",
        (Some(Declared::Axes), _) => "the values of this leg of the matrix",
        (Some(Declared::Inputs), _) => "the values that the pipeline is given",
        (Some(Declared::Variables), _) => "variables that the file sets",
        (None, "secrets") => "secrets that the forge keeps",
        (None, "vars") => "variables that the forge keeps",
        (None, _) => "what the run knows of itself",
    }
}

/// What stands below a path.
fn below(desk: &Desk<'_>, path: &[&str]) -> Vec<Offer> {
    let grammar = desk.grammar();
    let own = desk.own_job();
    match (grammar.names.declared(path[0]), path) {
        (Some(Declared::Jobs), [_]) => own.map_or_else(Vec::new, |job| {
            names(job.needs.iter().map(|need| need.value.clone()), "a job that this one waits for", ".")
        }),
        (Some(Declared::Jobs), [_, _]) => names(["outputs", "result"].map(str::to_owned).into_iter(), "", ""),
        (Some(Declared::Jobs), [_, job, "outputs"]) => {
            let named = desk.pipeline.job(job).map(|job| &desk.pipeline.jobs[job]);
            let outputs = named.into_iter().flat_map(|job| &job.outputs).map(|(name, _)| name.value.clone());
            names(outputs, "what the job gives", "")
        }
        (Some(Declared::Steps), [_]) => {
            let ids = own.into_iter().flat_map(|job| before(desk, job)).filter_map(|step| step.id.as_ref());
            names(ids.map(|id| id.value.clone()), "a step before this one", ".")
        }
        (Some(Declared::Steps), [_, _]) => names(["outputs", "outcome", "conclusion"].map(str::to_owned).into_iter(), "", ""),
        (Some(Declared::Steps), [_, id, "outputs"]) => {
            let is_it = |step: &&Step| step.id.as_ref().is_some_and(|own| own.value.eq_ignore_ascii_case(id));
            let step = own.into_iter().flat_map(|job| before(desk, job)).find(is_it);
            names(step.map(|step| given(desk, step)).unwrap_or_default().into_iter(), "what the step gives", "")
        }
        (Some(Declared::Axes), [_]) => {
            let axes = own.and_then(|job| job.matrix.as_ref()).into_iter().flat_map(|matrix| &matrix.axes);
            names(axes.map(|(name, _)| name.value.clone()), "a key of the matrix", "")
        }
        (Some(Declared::Inputs), [_]) => {
            let inputs = desk.pipeline.inputs().unwrap_or_default();
            names(inputs.into_iter().map(|input| input.name.value.clone()), "an input of this pipeline", "")
        }
        (Some(Declared::Variables), [_]) => names(set_here(desk).into_iter(), "a variable that the file sets", ""),
        (None, ["secrets"]) => held(desk, Read::Secret),
        (None, ["vars"]) => held(desk, Read::ForgeVariable),
        (None, [context]) => {
            let known = grammar.names.properties.get(&context.to_ascii_lowercase()).copied().unwrap_or_default();
            names(known.iter().map(|name| (*name).to_owned()), "what the run knows of itself", "")
        }
        _ => Vec::new(),
    }
}

fn names(all: impl Iterator<Item = String>, meaning: &str, end: &str) -> Vec<Offer> {
    let offer = |name: String| Offer { insert: format!("{name}{end}"), ..Offer::new(OfferKind::Read, name, meaning) };
    let mut offers = all.map(offer).collect();
    keep_first(&mut offers);
    offers
}

/// The steps of a job that have run where a byte stands: those before it, or all of them where it stands beside the steps.
fn before<'d>(desk: &Desk<'_>, job: &'d Job) -> impl Iterator<Item = &'d Step> {
    let offset = desk.offset;
    let among = job.steps.iter().any(|step| (step.at.span.start as usize) <= offset);
    job.steps.iter().filter(move |step| !among || (step.at.span.end as usize) < offset)
}

/// What a step is known to give.
fn given(desk: &Desk<'_>, step: &Step) -> Vec<String> {
    match &step.work {
        Work::Uses { action, found, .. } => match (found, desk.project.action(found)) {
            (Callee::Workspace(_) | Callee::Repository(_), Some(own)) => {
                let outputs = own.interface.iter().flat_map(|interface| &interface.outputs);
                outputs.map(|(name, _)| name.value.clone()).collect()
            }
            _ => {
                let known = known_action(&action.value).map(|(known, _)| known.outputs).unwrap_or_default();
                known.iter().map(|name| (*name).to_owned()).collect()
            }
        },
        Work::Runs { script, .. } => {
            // Lines such as `echo "page=…" >> "$FILE"` name what they give.
            let lines = script.value.lines().filter(|line| line.contains(">>"));
            let named = lines.filter_map(|line| {
                let (before, _) = line.split_once('=')?;
                Some(before.rsplit(|c: char| !(c.is_alphanumeric() || "_-".contains(c))).next()?.to_owned())
            });
            named.filter(|name| !name.is_empty()).collect()
        }
        _ => Vec::new(),
    }
}

/// The variables that the file sets where a byte stands.
fn set_here(desk: &Desk<'_>) -> Vec<String> {
    let of = |variables: &Variables| variables.entries.iter().map(|(name, _)| name.value.clone()).collect::<Vec<_>>();
    let mut all = of(&desk.pipeline.variables);
    if let Some(job) = desk.own_job() {
        all.extend(of(&job.variables));
        let here = |step: &&Step| step.at.span.start as usize <= desk.offset && desk.offset <= step.at.span.end as usize;
        all.extend(job.steps.iter().filter(here).flat_map(|step| of(&step.variables)));
    }
    all
}

/// Secrets or variables that the forge keeps: those that dulk.toml names, and those that this repository reads already.
fn held(desk: &Desk<'_>, kind: Read) -> Vec<Offer> {
    let forge = &desk.project.facts.settings.forge;
    let list = if kind == Read::Secret { &forge.secrets } else { &forge.variables };
    let environment =
        desk.own_job().and_then(|job| job.environment.as_ref()).and_then(|name| forge.environments.get(&name.value));
    let of_environment =
        environment.and_then(|one| if kind == Read::Secret { one.secrets.as_ref() } else { one.variables.as_ref() });
    let declared: Vec<String> = list.iter().chain(of_environment).flatten().map(|named| named.name.clone()).collect();
    let mut offers = names(declared.iter().cloned(), "dulk.toml names it", "");
    if kind == Read::Secret {
        let own = desk.pipeline.customs.own_tokens.first();
        offers.extend(own.map(|name| Offer::new(OfferKind::Read, *name, "the job's own token")));
    }
    // Once dulk.toml names them, no others exist.
    if list.is_none() {
        let read = desk.project.names_read(&[kind]).into_iter();
        // What is being typed is read as well.
        let typed = |name: &String| !desk.source.text[..desk.offset].ends_with(name.as_str());
        offers.extend(names(read.filter(typed), "read elsewhere in this repository", ""));
    }
    keep_first(&mut offers);
    offers
}

/// In a format of variables alone: those that are set, held, or known of the run.
fn variables(desk: &Desk<'_>, line: &str) -> Option<Offers> {
    let typed = line.rsplit(|c: char| !(c.is_alphanumeric() || c == '_')).next().unwrap_or_default();
    let before = line[..line.len() - typed.len()].trim_end_matches('{');
    if !before.ends_with('$') {
        return None;
    }
    let forge = &desk.project.facts.settings.forge;
    let mut list = names(set_here(desk).into_iter(), "a variable that the file sets", "");
    list.extend(names(forge.names().map(str::to_owned), "dulk.toml names it", ""));
    list.extend(names(desk.pipeline.run().predefined.iter().map(|name| (*name).to_owned()), "what the run knows of itself", ""));
    keep_first(&mut list);
    Some(Offers { instead_of: Span::new(desk.offset - typed.len(), desk.offset), list })
}
