//! Forges that run workflow files: what is asked of their interface.
//!
//! Sources: the forge's pages on its REST API, "Repositories", "GitHub Actions secrets", "GitHub Actions variables", "Deployment
//! environments", "Deployment branch policies", "GitHub Actions permissions" and "GitHub Pages", 2026-11.

use serde::Deserialize;

use crate::client::{Client, Failure, Page, segment};
use crate::place::Place;
use crate::{Learnt, LearntEnvironment, Told};

/// So many environments are asked about one by one.
const ENVIRONMENTS_LIMIT: usize = 50;

#[derive(Deserialize)]
struct Repository {
    default_branch: String,
    owner: Owner,
}

#[derive(Deserialize)]
struct Owner {
    #[serde(rename = "type")]
    kind: String,
}

#[derive(Deserialize)]
struct Named {
    name: String,
}

#[derive(Deserialize)]
struct Secrets {
    total_count: usize,
    secrets: Vec<Named>,
}

#[derive(Deserialize)]
struct Variables {
    total_count: usize,
    variables: Vec<Named>,
}

#[derive(Deserialize)]
struct Environments {
    total_count: usize,
    environments: Vec<Environment>,
}

#[derive(Deserialize)]
struct Environment {
    name: String,
    deployment_branch_policy: Option<BranchPolicy>,
}

#[derive(Deserialize)]
struct BranchPolicy {
    protected_branches: bool,
    custom_branch_policies: bool,
}

#[derive(Deserialize)]
struct Policies {
    total_count: usize,
    branch_policies: Vec<Named>,
}

macro_rules! pages {
    ($($page:ty: $list:ident of $item:ty, $at_once:literal at once;)*) => {
        $(impl Page for $page {
            type Item = $item;
            const AT_ONCE: usize = $at_once;
            fn total(&self) -> Option<usize> {
                Some(self.total_count)
            }
            fn items(self) -> Vec<$item> {
                self.$list
            }
        })*
    };
}

pages! {
    Secrets: secrets of Named, 100 at once;
    Variables: variables of Named, 30 at once;
    Environments: environments of Environment, 100 at once;
    Policies: branch_policies of Named, 100 at once;
}

#[derive(Deserialize)]
struct TokenDefault {
    default_workflow_permissions: String,
}

#[derive(Deserialize)]
struct Pages {
    build_type: Option<String>,
    source: Option<PagesSource>,
}

#[derive(Deserialize)]
struct PagesSource {
    branch: String,
}

/// Asks for everything; one thing that is not told does not keep the others from being asked for.
pub fn ask(client: &Client, place: &Place) -> Told<Learnt> {
    let root = format!("/repos/{}/{}", segment(&place.remote.owner), segment(&place.remote.name));
    let repository: Repository = client.get(&root)?;
    let owner = &repository.owner;
    let secrets = shared_names::<Secrets>(client, &root, owner, "secrets", "Secrets: read");
    let variables = shared_names::<Variables>(client, &root, owner, "variables", "Variables: read");
    let token = client.get(&format!("{root}/actions/permissions/workflow"));
    let token = token.map_err(|failure| failure.wanting("Administration: read")).and_then(|said: TokenDefault| {
        match said.default_workflow_permissions.as_str() {
            known @ ("read" | "write") => Ok(known.to_owned()),
            _ => Err(Failure::Senseless("it names a permission that there is not".into())),
        }
    });
    Ok(Learnt {
        default_branch: Ok(repository.default_branch),
        secrets,
        variables,
        token,
        pages: pages(client, &root),
        environments: environments(client, &root),
    })
}

/// The repository's names of a kind, with those that an organization hands to it.
fn shared_names<P: Page<Item = Named>>(
    client: &Client,
    root: &str,
    owner: &Owner,
    kind: &str,
    right: &'static str,
) -> Told<Vec<String>> {
    let mut all = names::<P>(client, &format!("{root}/actions/{kind}"), right)?;
    if owner.kind == "Organization" {
        all.extend(names::<P>(client, &format!("{root}/actions/organization-{kind}"), right)?);
    }
    Ok(sorted(all))
}

fn names<P: Page<Item = Named>>(client: &Client, path: &str, right: &'static str) -> Told<Vec<String>> {
    let named = client.all::<P>(path).map_err(|failure| failure.wanting(right))?;
    named.into_iter().map(|one| checked(one.name)).collect()
}

/// A name as secrets and variables have them: letters, digits and underscores.
pub fn checked(name: String) -> Told<String> {
    let fits = !name.is_empty() && name.len() <= 255 && name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_');
    if fits { Ok(name) } else { Err(Failure::Senseless("it names something that can be no name".into())) }
}

/// Each once, in order.
pub fn sorted(mut names: Vec<String>) -> Vec<String> {
    names.sort_unstable();
    names.dedup();
    names
}

fn pages(client: &Client, root: &str) -> Told<Option<String>> {
    match client.get::<Pages>(&format!("{root}/pages")) {
        Ok(Pages { build_type: Some(kind), .. }) if kind == "workflow" => Ok(Some("pipeline".into())),
        Ok(Pages { source: Some(source), .. }) => Ok(Some(format!("branch:{}", source.branch))),
        Ok(_) => Err(Failure::Senseless("it does not say where pages come from".into())),
        // The repository itself was shown, so that this is the documented answer of one without pages.
        Err(Failure::Absent) => Ok(None),
        Err(other) => Err(other.wanting("Pages: read")),
    }
}

fn environments(client: &Client, root: &str) -> Told<Vec<(String, LearntEnvironment)>> {
    let found = client.all::<Environments>(&format!("{root}/environments"));
    let found = found.map_err(|failure| failure.wanting("Actions: read"))?;
    if found.len() > ENVIRONMENTS_LIMIT {
        return Err(Failure::NotAsked(format!("there are {}, too many to ask about one by one", found.len())));
    }
    const RIGHT: &str = "Environments: read";
    let protected = std::cell::OnceCell::new();
    let look = |environment: Environment| {
        let own = format!("{root}/environments/{}", segment(&environment.name));
        let branches = match &environment.deployment_branch_policy {
            None => Ok(None),
            Some(policy) if policy.custom_branch_policies => {
                let policies = client.all::<Policies>(&format!("{own}/deployment-branch-policies"));
                policies.map(|policies| Some(policies.into_iter().map(|policy| policy.name).collect()))
            }
            Some(policy) if policy.protected_branches => {
                let ask = || client.all::<Vec<Named>>(&format!("{root}/branches?protected=true"));
                let branches = protected.get_or_init(|| ask().map(|all| all.into_iter().map(|one| one.name).collect::<Vec<_>>()));
                // Where no branch is protected, all of them may.
                branches.clone().map(|branches| Some(branches).filter(|branches| !branches.is_empty()))
            }
            Some(_) => Err(Failure::Senseless("it says neither which branches may nor that all may".into())),
        };
        let learnt = LearntEnvironment {
            branches,
            secrets: names::<Secrets>(client, &format!("{own}/secrets"), RIGHT).map(sorted),
            variables: names::<Variables>(client, &format!("{own}/variables"), RIGHT).map(sorted),
        };
        (environment.name, learnt)
    };
    Ok(found.into_iter().map(look).collect())
}
