//! The path that the site is served under, where the host serves it below one and the generator has to be told.

use crate::facts::{Facts, served_under};
use crate::knowledge::{Generator, SiteHost, forges};

/// What a build is given so that its addresses fit the host.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Base {
    /// Nothing has to be said.
    Fits,
    /// This option.
    Option(String),
    /// This variable with its value.
    Variable(String),
    /// The configuration has to say it.
    Asked(String),
}

/// The path below which the host serves the site, with slashes at both ends, when it is known.
fn path_at(facts: &Facts, host: &SiteHost) -> Option<String> {
    if let Some(base) = &facts.settings.site.base {
        return Some(format!("/{}/", base.name.trim_matches('/')).replace("//", "/"));
    }
    if host.id != "pages" || facts.hosting.iter().any(|fact| fact.host == "custom domain") {
        return None;
    }
    let remote = facts.git.remote.known()?;
    let pages = forges().pages_of(&remote.host)?;
    let own = pages.host.replace("{owner}", &remote.owner);
    Some(if remote.name.eq_ignore_ascii_case(&own) { "/".to_owned() } else { format!("/{}/", remote.name) })
}

/// What has to be said to a generator that runs in a folder.
pub(super) fn of(facts: &Facts, generator: &Generator, dir: &str, host: &SiteHost) -> Base {
    let Some(path) = path_at(facts, host).filter(|path| path != "/") else { return Base::Fits };
    // Pages that find each other without a path fit anywhere.
    let Some((served, _)) = served_under(facts, generator, dir).filter(|_| !generator.relative_links) else { return Base::Fits };
    if served.trim_matches('/') == path.trim_matches('/') || served.starts_with('.') || served.is_empty() {
        return Base::Fits;
    }
    if let Some(option) = generator.base_options.iter().find(|option| option.starts_with("--")) {
        return Base::Option(format!("{option}={path}"));
    }
    match generator.base_variable {
        Some(name) => Base::Variable(format!("{name}={}", path.trim_end_matches('/'))),
        None => Base::Asked(path),
    }
}
