//! Forges that run `.gitlab-ci.yml`: what is asked of their interface.
//!
//! Sources: the forge's pages on its REST API, "Projects", "Project-level CI/CD variables", "Group-level CI/CD variables",
//! "Instance-level CI/CD variables", "Environments" and "Pages", 2026-11.

use serde::Deserialize;

use crate::client::{Client, Failure, segment};
use crate::place::Place;
use crate::workflow::{checked, sorted};
use crate::{Learnt, LearntEnvironment, Told};

#[derive(Deserialize)]
struct Project {
    default_branch: Option<String>,
    namespace: Namespace,
}

#[derive(Deserialize)]
struct Namespace {
    kind: String,
    full_path: String,
}

/// A variable. Its value comes along, and is not even read.
#[derive(Deserialize)]
struct Variable {
    key: String,
    #[serde(default)]
    masked: bool,
    #[serde(default)]
    hidden: bool,
}

#[derive(Deserialize)]
struct Environment {
    name: String,
}

/// What is known of the site; its form does not matter.
#[derive(Deserialize)]
struct Pages {}

/// Asks for everything; one thing that is not told does not keep the others from being asked for.
pub fn ask(client: &Client, place: &Place) -> Told<Learnt> {
    let root = format!("/projects/{}", segment(&format!("{}/{}", place.remote.owner, place.remote.name)));
    let project: Project = client.get(&root)?;
    let all = variables(client, place, &root, &project.namespace);
    // What is masked in logs is a secret; all of them are read in the same way.
    let of_kind = |secret: bool| {
        let own = |all: &Vec<Variable>| {
            let own = all.iter().filter(|one| (one.masked || one.hidden) == secret);
            own.map(|one| checked(one.key.clone())).collect::<Told<Vec<_>>>().map(sorted)
        };
        all.as_ref().map_err(Clone::clone).and_then(own)
    };
    Ok(Learnt {
        default_branch: project.default_branch.ok_or_else(|| Failure::NotAsked("the project has no branch yet".into())),
        secrets: of_kind(true),
        variables: of_kind(false),
        token: Err(Failure::NotAsked("jobs of this forge are given no token whose rights a setting names".into())),
        pages: match client.get::<Pages>(&format!("{root}/pages")) {
            Ok(Pages {}) => Ok(Some("pipeline".into())),
            Err(Failure::Absent) => Ok(None),
            Err(other) => Err(other),
        },
        environments: environments(client, &root),
    })
}

/// The variables of the project, of the groups that it lies in, and of the whole installation: a job is given all of them, whatever
/// environment they are for.
fn variables(client: &Client, place: &Place, root: &str, namespace: &Namespace) -> Told<Vec<Variable>> {
    let of_project = client.all::<Vec<Variable>>(&format!("{root}/variables"));
    let mut found = of_project.map_err(|failure| failure.wanting("a keeper of the project (Maintainer)"))?;
    if namespace.kind == "group" {
        let ends = namespace.full_path.match_indices('/').map(|(end, _)| end).chain([namespace.full_path.len()]);
        for group in ends.map(|end| &namespace.full_path[..end]) {
            let of_group = client.all::<Vec<Variable>>(&format!("/groups/{}/variables", segment(group)));
            found.extend(of_group.map_err(|failure| failure.wanting("a keeper of the group (Owner)"))?);
        }
    }
    // On the forge that everybody shares there are none for all.
    if !place.is_shared() {
        let whole = client.all::<Vec<Variable>>("/admin/ci/variables");
        found.extend(whole.map_err(|failure| match failure {
            Failure::NotAllowed(_) | Failure::Absent => Failure::NotAsked(
                "those of the whole installation are shown to its keepers alone, so that the list may lack some".into(),
            ),
            other => other,
        })?);
    }
    Ok(found)
}

fn environments(client: &Client, root: &str) -> Told<Vec<(String, LearntEnvironment)>> {
    let found = client.all::<Vec<Environment>>(&format!("{root}/environments?states=available"))?;
    let untold = || Failure::NotAsked("variables for one environment stand among all others".into());
    let learnt = |one: Environment| {
        let rules = Failure::NotAsked("who may deploy to it hangs on people, not on branches".into());
        (one.name, LearntEnvironment { branches: Err(rules), secrets: Err(untold()), variables: Err(untold()) })
    };
    Ok(found.into_iter().map(learnt).collect())
}
