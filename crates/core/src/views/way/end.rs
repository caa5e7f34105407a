//! Where a way ends.

use crate::case::{Case, Published};
use crate::knowledge;
use crate::model::Target;

/// Where it can be looked at, as far as that can be worked out.
pub(super) fn end_of(case: &Case<'_>, published: &Published<'_>) -> String {
    let base = case.facts.settings.site.base.as_ref().map(|base| base.name.clone());
    let domain = case
        .facts
        .hosting
        .iter()
        .find_map(|hosting| hosting.line.as_ref().filter(|_| hosting.path.ends_with("CNAME")).map(|(line, _)| line.clone()));
    let own_pages =
        published.is_forge_pages() || published.branch.is_some_and(|branch| published.place == Some(&format!("branch {branch}")));
    if let (Some(domain), true) = (&domain, own_pages) {
        return format!("https://{domain}{}", base.as_deref().unwrap_or("/"));
    }
    let remote = case.facts.git.remote.known();
    let pages = remote.and_then(|remote| knowledge::forges().pages_of(&remote.host).map(|pages| (remote, pages)));
    if let (Some((remote, pages)), true) = (pages, own_pages) {
        let host = pages.host.replace("{owner}", &remote.owner.to_ascii_lowercase());
        let at_root = remote.name.eq_ignore_ascii_case(&host);
        let path = base.unwrap_or_else(|| if at_root { "/".to_owned() } else { format!("/{}/", remote.name) });
        return format!("https://{host}{path}");
    }
    let place = published.place.map_or_else(
        || format!("{}, where exactly is not known", published.target),
        |place| place.replacen("branch ", "the branch ", 1),
    );
    // The name of a project or a service says little without its host.
    let host = published.target.to_string();
    let bare = matches!(published.target, Target::Host(_)) && !place.contains(host.as_str()) && !place.contains(['.', '/', '@']);
    let place = if bare { format!("{host}, {place}") } else { place };
    match base {
        Some(base) if own_pages => format!("{place}, served under {base}"),
        _ => place,
    }
}
