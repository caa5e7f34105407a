//! From the tree of an `amplify.yml` to the model: each app is a pipeline of one job.
//!
//! After the pages "Build specification" and "Monorepo build settings": commands run in the folder of `appRoot`, or in the one that
//! `buildPath` names from the repository's root; the folder that goes online is seen from there. A failed command ends the build.

use crate::carrier::{NodeId, Tree};
use crate::effects::Effect;
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::formats::phased::{self, Handed};
use crate::model::{ByItself, Job, Language, Pipeline, StartsFrom, Step, Target, Text, Variables, Work, Workspace};
use crate::text::{FileId, Place};

/// More apps are no honest file.
const APP_LIMIT: usize = 200;

/// The parts of an app in the order in which they are done, each with its phases.
const PARTS: [(&str, [&str; 3]); 3] = [
    ("backend", ["preBuild", "build", "postBuild"]),
    ("frontend", ["preBuild", "build", "postBuild"]),
    ("test", ["preTest", "test", "postTest"]),
];

/// What is done for an app.
pub(in crate::formats) struct App {
    /// The folder that it lies in, where the file names several apps.
    pub root: Option<Text>,
    /// What is done, in order, up to the publish.
    pub steps: Vec<Step>,
    /// Variables that all commands see.
    pub variables: Variables,
    /// What goes online.
    pub artifact: Option<Handed>,
    /// The folder that commands run in.
    pub directory: Option<Text>,
    /// Where it begins.
    pub at: Place,
    /// All of it.
    pub body: Place,
}

/// The apps of a document.
pub(in crate::formats) fn apps(nodes: Nodes<'_>, root: NodeId) -> Vec<App> {
    let top = Keys::of(nodes, root);
    match top.get("applications") {
        Some(list) => listed(&nodes, list).into_iter().take(APP_LIMIT).filter_map(|node| app(nodes, node)).collect(),
        None => app(nodes, root).into_iter().collect(),
    }
}

fn app(nodes: Nodes<'_>, node: NodeId) -> Option<App> {
    let keys = Keys::of(nodes, node);
    let root = keys.text("appRoot");
    let frontend = keys.get("frontend").map(|node| Keys::of(nodes, node))?;
    let at = root.as_ref().map(|root| root.at).or_else(|| keys.at("frontend"))?;
    let variables = keys
        .get("env")
        .and_then(|env| Keys::of(nodes, env).get("variables"))
        .map(|node| nodes.variables(node))
        .unwrap_or_default();
    let directory = directory(&frontend, root.as_ref());
    let mut steps = phased::beginning(&frontend, at, directory.as_ref());
    for (part, phases) in PARTS {
        let Some(phases_of) = keys.get(part).and_then(|node| Keys::of(nodes, node).get("phases")) else { continue };
        let phases_of = Keys::of(nodes, phases_of);
        // Each part begins in the app's folder anew.
        let mut begins = true;
        for name in phases {
            let list = phases_of.get(name).and_then(|node| Keys::of(nodes, node).get("commands"));
            let step = list.and_then(|list| phased::script_step(name, nodes.words(list).0));
            steps.extend(step.map(|step| Step { directory: directory.clone().map(Box::new), same_shell: !begins, ..step }));
            begins &= list.is_none();
        }
    }
    let artifact = frontend.get("artifacts").and_then(|node| phased::handed(&Keys::of(nodes, node), super::WORDS.base));
    Some(App { root, steps, variables, artifact, directory, at, body: nodes.at(node) })
}

/// The folder that commands run in. Source: the page "Monorepo build settings", `buildPath`, 2026-11.
fn directory(frontend: &Keys<'_>, root: Option<&Text>) -> Option<Text> {
    let written = frontend.text("buildPath").or_else(|| root.cloned())?;
    let inside = written.value.trim_matches('/');
    let start = written.value.find(inside).unwrap_or(0);
    let path = Text::fixed(inside, written.place(start..start + inside.len()));
    Some(path).filter(|path| !path.value.is_empty() && path.value != ".")
}

/// The step by which the service puts an app online. Each branch has an address of its own.
pub(in crate::formats) fn published(app: &mut App, place: String) -> Option<Step> {
    let handed = app.artifact.take()?;
    let mut paths = handed.paths.into_iter();
    let folder = paths.next()?;
    let whole = paths.next().is_none();
    let into = (Target::Host("amplify".into()), Some(place));
    let publish = Effect::publish_to(into, Some(folder).filter(|_| whole), Some(String::new()), handed.laid);
    let own = ByItself { texts: handed.texts, ..ByItself::of(publish, handed.at) };
    Some(Step { directory: app.directory.clone().map(Box::new), ..Step::new(handed.at, Work::ByItself(own)) })
}

/// Reads the file, each app as a pipeline of its own.
pub(super) fn read(tree: &Tree, file: FileId) -> Vec<Pipeline> {
    let nodes = Nodes { tree, file, language: Language::Variables };
    let found = tree.documents.first().map(|root| apps(nodes, *root)).unwrap_or_default();
    let one = |mut app: App| {
        let mut pipeline = Pipeline::empty(file, super::FORMAT, &super::data().customs);
        pipeline.starts_from =
            StartsFrom::Unknown("the app's settings say which branches are built, and those stand in no file here".into());
        let place = place_of(app.root.as_ref());
        let publish = published(&mut app, place);
        let id = app.root.clone().unwrap_or_else(|| Text::fixed("app", app.at));
        pipeline.jobs.push(Job {
            steps: app.steps.into_iter().chain(publish).collect(),
            workspace: Workspace::Fresh,
            ..Job::empty(id, app.body)
        });
        pipeline.variables = app.variables;
        pipeline.name = app.root;
        pipeline
    };
    found.into_iter().map(one).collect()
}

/// The address of an app, in words that are the same for the same one.
fn place_of(root: Option<&Text>) -> String {
    let root = root.map(|root| format!("{} ", root.value)).unwrap_or_default();
    format!("amplify {root}$AWS_BRANCH")
}
