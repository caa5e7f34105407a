//! A third, tiny format, made up: what a new format needs is one folder like this, and its entry in the list.

mod seam;

use super::nodes::Nodes;
use super::{Claim, Format, ReadText, Reading, Spot, Texts, Wanted};
use crate::carrier::{NodeId, Tree};
use crate::case::Case;
use crate::effects::Effect;
use crate::finding::Mend;
use crate::form;
use crate::knowledge::FormatData;
use crate::model::{ByItself, Job, Language, Pipeline, Scope, Shell, StartsFrom, Step, Text, Work, Workspace};
use crate::pen::Ask;

/// `tide.yml`: pipelines by their names, each with the commands that it runs (`do`), a file with commands before them (`with`), and a
/// file that it runs when it is done (`then`).
pub(super) const FORMAT: &dyn Format = &Tide;

#[derive(Debug)]
struct Tide;

const NAME: &str = "tide.yml";

impl Format for Tide {
    fn id(&self) -> &'static str {
        "tide"
    }

    fn data(&self) -> &'static FormatData {
        crate::knowledge::formats::tide()
    }

    fn spots(&self) -> Vec<Spot> {
        vec![Spot::File(NAME.to_owned())]
    }

    fn claim(&self, path: &str) -> Claim {
        match path {
            NAME => Claim::Reads,
            "tide.yaml" => Claim::Slip { wanted: NAME.to_owned(), because: "its name ends with .yaml".to_owned(), moved: false },
            _ => Claim::No,
        }
    }

    fn fits(&self, tree: &Tree) -> bool {
        let Some(root) = tree.documents.first() else { return false };
        tree.pairs(*root).iter().any(|(_, pipeline)| tree.get(*pipeline, "do").is_some())
    }

    fn wants(&self, text: &str) -> Vec<Wanted> {
        let tree = crate::carrier::parse(text);
        let Some(root) = tree.documents.first() else { return Vec::new() };
        let mut found = Vec::new();
        for (_, pipeline) in tree.pairs(*root) {
            let path = |key: &str| tree.value(*pipeline, key).and_then(|value| tree.scalar(value)).map(str::to_owned);
            found.extend(path("with").map(Wanted::Part));
            found.extend(path("then").map(|path| Wanted::Runs { path, format: "tide" }));
        }
        found
    }

    fn read(&self, texts: &Texts<'_>) -> Reading {
        let main = &texts.main;
        let Some(root) = main.tree.documents.first().copied() else {
            return Reading { pipelines: Vec::new(), form: Vec::new() };
        };
        let pipelines: Vec<Pipeline> =
            main.tree.pairs(root).iter().filter_map(|(name, body)| pipeline(texts, *name, *body)).collect();
        let form = match pipelines.first().filter(|_| main.tree.is_whole()) {
            Some(first) => form::walk(&main.tree, Some(root), main.file, self.grammar(), "tide", true, &form::Scope::new(first)),
            None => Vec::new(),
        };
        Reading { pipelines, form }
    }

    fn write(&self, _: &Case<'_>, ask: &Ask<'_>) -> Mend {
        Mend::by_hand(match ask {
            Ask::Limit { .. } => "ask the harbour master for a limit".to_owned(),
            _ => "see the tide table".to_owned(),
        })
    }
}

fn pipeline(texts: &Texts<'_>, name: NodeId, body: NodeId) -> Option<Pipeline> {
    let main = &texts.main;
    let nodes = nodes_of(main);
    let name = nodes.text(name)?;
    let mut pipeline = Pipeline::empty(main.file, FORMAT, FORMAT.customs(NAME));
    pipeline.starts_from = StartsFrom::Unknown("the harbour's settings say what starts it".to_owned());
    pipeline.partial = texts.missing;
    let mut job = Job::empty(name.clone(), nodes.at(body));
    job.workspace = Workspace::Fresh;
    job.steps.push(Step::new(name.at, Work::ByItself(sources(&name))));
    for part in &texts.parts {
        part.tree.documents.iter().for_each(|root| steps(&nodes_of(part), *root, &Scope::default(), &mut job.steps));
    }
    if let Some(commands) = main.tree.value(body, "do") {
        steps(&nodes, commands, &Scope::default(), &mut job.steps);
    }
    pipeline.jobs.push(job);
    pipeline.name = Some(name);
    Some(pipeline)
}

fn nodes_of<'t>(text: &'t ReadText<'_>) -> Nodes<'t> {
    Nodes { tree: &text.tree, file: text.file, language: Language::Variables }
}

/// The repository's files are there by themselves.
fn sources(name: &Text) -> ByItself {
    ByItself::of(Effect::own_sources(None, None), name.at)
}

/// A text is a command, `wait` a gate, a list a program in an image, and a mapping says for some commands in which folder they run.
fn steps(nodes: &Nodes<'_>, list: NodeId, scope: &Scope, out: &mut Vec<Step>) {
    for item in nodes.tree.items(list) {
        let (at, words) = (nodes.at(*item), nodes.words(*item).0);
        let step = match (nodes.text(*item), words.split_first()) {
            (Some(text), _) if text.value == "wait" => Step::new(at, Work::Gate),
            (Some(script), _) => Step::new(at, Work::Runs { shell: Shell::Posix, script }),
            (None, Some((image, words))) => Step::program(at, image.clone(), words),
            (None, None) => {
                let scope = Scope { directory: nodes.text_at(*item, "in").map(Box::new), ..scope.clone() };
                nodes.tree.value(*item, "do").iter().for_each(|inner| steps(nodes, *inner, &scope, out));
                continue;
            }
        };
        out.push(step.within(scope));
    }
}
