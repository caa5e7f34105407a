//! Which format and which host, where nobody says so: what the repository gives away, or what most take.

use super::Refused;
use crate::facts::{Facts, HostingFact};
use crate::formats::{self, Claim, Format};
use crate::knowledge::{SiteHost, forges, hosts};

/// A format and a host, with the words for why.
#[derive(Debug)]
pub struct Chosen {
    /// The format.
    pub format: &'static dyn Format,
    /// Where the file belongs.
    pub path: String,
    /// Why this format; nothing where it was asked for.
    pub format_because: Option<String>,
    /// The host.
    pub host: &'static SiteHost,
    /// Why this host; nothing where it was asked for.
    pub host_because: Option<String>,
}

/// Takes what is asked for, and chooses the rest: `format` is a format's name or the path of a file that one reads, `host` a host's id.
///
/// # Errors
/// When there is none of that name.
pub fn choose(facts: &Facts, format: Option<&str>, host: Option<&str>) -> Result<Chosen, Refused> {
    let wanted = host.map(host_named).transpose()?;
    let (format, path, format_because) = match format {
        Some(name) => {
            let (format, path) = format_named(name)?;
            (format, path, None)
        }
        None => usual_format(facts, wanted),
    };
    let (host, host_because) = match wanted {
        Some(host) => (host, None),
        None => usual_host(facts, format, &path),
    };
    Ok(Chosen { format, path, format_because, host, host_because })
}

fn host_named(name: &str) -> Result<&'static SiteHost, Refused> {
    let all = || hosts().host.iter().map(|host| host.id).collect::<Vec<_>>();
    hosts().get(name).ok_or_else(|| Refused(format!("no host is called {name}; dulk drafts for {}", all().join(", "))))
}

fn format_named(name: &str) -> Result<(&'static dyn Format, String), Refused> {
    if let Some(format) = drafted().find(|format| format.id() == name) {
        return Ok((format, usual_path(format).to_owned()));
    }
    if let Some(format) =
        formats::all().iter().copied().find(|format| format.claim(name) == Claim::Reads && format.drafter().is_some())
    {
        return Ok((format, name.to_owned()));
    }
    let names: Vec<&str> = drafted().map(|format| format.id()).collect();
    Err(Refused(format!(
        "no format is called {name}, and no forge reads a pipeline at such a path; dulk drafts for {}",
        names.join(", ")
    )))
}

/// Where a drafted file of a format belongs; "" for a format in which nothing is drafted.
pub fn usual_path(format: &dyn Format) -> &'static str {
    format.drafter().map_or("", |drafter| drafter.path())
}

fn drafted() -> impl Iterator<Item = &'static dyn Format> {
    formats::all().iter().copied().filter(|format| format.drafter().is_some())
}

fn usual_format(facts: &Facts, host: Option<&'static SiteHost>) -> (&'static dyn Format, String, Option<String>) {
    let at_home = |format: &'static dyn Format| usual_path(format).to_owned();
    // A host that one format alone can reach decides.
    let only = host.and_then(|host| {
        let mut fitting = drafted().filter(|format| reaches(*format, usual_path(*format), host));
        fitting.next().filter(|_| fitting.next().is_none()).map(|format| (format, host))
    });
    if let Some((format, host)) = only {
        return (format, at_home(format), Some(format!("only such a file reaches {}", host.name)));
    }
    let remote = facts.git.remote.known();
    let of_forge = remote.and_then(|remote| forges().interfaces.iter().find(|one| one.forge == remote.host));
    if let (Some(forge), Some(remote)) = (of_forge, remote)
        && let Some(format) = formats::named(forge.kind)
    {
        return (format, at_home(format), Some(format!("the repository is on {}", remote.host)));
    }
    let workflow = formats::all()[0];
    let folder = workflow.data().host.iter().map(|host| host.folder).find(|folder| {
        let top = folder.split('/').next().unwrap_or_default();
        facts.files.known().is_some_and(|files| files.iter().any(|path| path.starts_with(&format!("{top}/"))))
    });
    if let (Some(folder), Some(name)) = (folder, usual_path(workflow).rsplit('/').next()) {
        let top = folder.split('/').next().unwrap_or_default();
        return (workflow, format!("{folder}/{name}"), Some(format!("there is a folder {top}/")));
    }
    let others: Vec<&str> = drafted().map(|format| format.id()).filter(|id| *id != workflow.id()).collect();
    let because = format!("nothing here tells which forge will run it; --for takes {} as well", others.join(", "));
    (workflow, at_home(workflow), Some(because))
}

fn usual_host(facts: &Facts, format: &dyn Format, path: &str) -> (&'static SiteHost, Option<String>) {
    let told = |host: &'static SiteHost| {
        let tells = |fact: &&HostingFact| host.files.contains(&fact.host);
        facts.hosting.iter().find(tells).filter(|_| reaches(format, path, host)).map(|fact| (host, fact))
    };
    if let Some((host, fact)) = hosts().host.iter().find_map(told) {
        return (host, Some(format!("there is {}", fact.path)));
    }
    let own = format.drafter().map_or("", |drafter| drafter.usual_host(path));
    let host = hosts().get(own).or_else(|| hosts_of(format, path).into_iter().next()).unwrap_or(&hosts().host[0]);
    let has_others = hosts_of(format, path).len() > 1;
    (host, has_others.then(|| "nothing here tells where the site goes; --to takes another".to_owned()))
}

/// The hosts that a file at a path can reach.
pub fn hosts_of(format: &dyn Format, path: &str) -> Vec<&'static SiteHost> {
    hosts().host.iter().filter(|host| reaches(format, path, host)).collect()
}

fn reaches(format: &dyn Format, path: &str, host: &SiteHost) -> bool {
    let Some(drafter) = format.drafter() else { return false };
    let own = host.by_itself.contains(&format.id()) && drafter.has_own_ways(path);
    own || host.tool.is_some_and(|tool| format.data().publishes_with.contains(&tool) && drafter.has_tool(path, tool))
}

/// Whether a file at a path can reach a host.
///
/// # Errors
/// Why it cannot, and what can.
pub fn fits(format: &dyn Format, path: &str, host: &SiteHost) -> Result<(), Refused> {
    if reaches(format, path, host) {
        return Ok(());
    }
    let reaching: Vec<&str> =
        drafted().filter(|other| reaches(*other, usual_path(*other), host)).map(|other| other.id()).collect();
    let others: Vec<&str> = hosts_of(format, path).iter().map(|host| host.id).collect();
    Err(Refused(format!(
        "no draft goes from {path} to {}: one --for {} does, and from this file --to {}",
        host.name,
        listed_choice(&reaching),
        listed_choice(&others)
    )))
}

fn listed_choice(words: &[&str]) -> String {
    match words {
        [first @ .., last] if !first.is_empty() => format!("{} or {last}", first.join(", ")),
        _ => words.concat(),
    }
}
