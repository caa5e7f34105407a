//! The path that the site is served under, where the host serves it below one and the generator has to be told.

use super::in_shell;
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
    /// The configuration has to say this path.
    Asked(String),
    /// Whether it says this path is not known.
    Unknown(String),
}

/// Where the host serves the site: the path, with slashes at both ends, and the address with it where that is known.
struct Served {
    path: String,
    address: Option<String>,
}

fn served_at(facts: &Facts, host: &SiteHost) -> Option<Served> {
    if let Some(base) = &facts.settings.site.base {
        let path = format!("/{}/", base.name.trim_matches('/')).replace("//", "/");
        return Some(Served { path, address: None });
    }
    if host.id != "pages" || facts.hosting.iter().any(|fact| fact.host == "custom domain") {
        return None;
    }
    let remote = facts.git.remote.known()?;
    let pages = forges().pages_of(&remote.host)?;
    let own = pages.host.replace("{owner}", &remote.owner);
    let path = if remote.name.eq_ignore_ascii_case(&own) { "/".to_owned() } else { format!("/{}/", remote.name) };
    let address = format!("https://{own}{path}");
    Some(Served { path, address: Some(address) })
}

/// What has to be said to a generator that runs in a folder.
pub(super) fn of(facts: &Facts, generator: &Generator, dir: &str, host: &SiteHost) -> Base {
    let Some(Served { path, address }) = served_at(facts, host).filter(|served| served.path != "/") else { return Base::Fits };
    // Pages that find each other without a path fit anywhere.
    if generator.relative_links {
        return Base::Fits;
    }
    let Some((served, _)) = served_under(facts, generator, dir) else { return Base::Unknown(path) };
    if served.trim_matches('/') == path.trim_matches('/') || served.starts_with('.') || served.is_empty() {
        return Base::Fits;
    }
    // Some are told the whole address of the site, others the path alone.
    let takes_address = generator.base_settings.iter().any(|setting| generator.address_settings.contains(setting));
    let told = match (takes_address, address) {
        (true, address) => address,
        (false, _) if generator.base_without_slash => Some(path.trim_end_matches('/').to_owned()),
        (false, _) => Some(path.clone()),
    };
    let option = generator.base_options.iter().find(|option| option.starts_with("--"));
    if let (Some(option), Some(told)) = (option, told) {
        return Base::Option(format!("{option}={}", in_shell(&told)));
    }
    match generator.base_variable {
        Some(name) => Base::Variable(format!("{name}={}", in_shell(path.trim_end_matches('/')))),
        None => Base::Asked(path),
    }
}
