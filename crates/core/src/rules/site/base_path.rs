//! Pages that look for their files under another path than the one they are served under.

use super::{has_own_domain, publish_of, tells_generator};
use crate::case::{Case, Published, at};
use crate::effects::Effect;
use crate::facts::{Origin, path_of_address};
use crate::finding::{Finding, Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::model::{Target, WebStore};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "site.base-path",
    severity: Severity::Error,
    title: "The pages look for their files in the wrong place",
    why: "A project's pages are served under the repository's name, not at the root. A site that was built for the root asks for \
          its scripts and styles where there are none: the page is online, and blank.",
    needs: &[],
    bad: &[
        // The sub-folder that it is published into is a part of the path.
        r"
== files
index.html
== vite.config.js
export default { base: ‹'/timetable/'› }
== git
main default
github.com/pier/timetable remote
== pipeline
on: push
permissions: {contents: write}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: «npx vite build»
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: '${{ github.token }}', publish_dir: dist, destination_dir: app}
",
        r#"
== files
index.html
== dulk.toml
[site]
base = ‹"/timetable/"›
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: «npx vite build»
      - run: npx gh-pages -d dist
"#,
        r#"
== files
index.html
== dulk.toml
[site]
base = ‹"/timetable/"›
== git
main default
== gitlab
pages:
  script:
    - «npx vite build --outDir public»
  artifacts: {paths: [public]}
"#,
        r"
== git
main default
== files
index.html
== vite.config.js
export default { base: ‹'/timetable/'› };
== infra/site.yml
Resources:
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      BucketName: tarnsay-timetable
      ‹WebsiteConfiguration›: {IndexDocument: index.html}
== gitlab
publish:
  resource_group: www
  script:
    - «npx vite build»
    - aws s3 sync dist s3://tarnsay-timetable --delete
",
    ],
    good: &[
        // What is only looked at before it goes live need not work as the site does.
        r"
== files
index.html
== vite.config.js
export default { base: '/timetable/' }
== git
main default
github.com/pier/timetable remote
== pipeline
on: push
permissions: {contents: write}
concurrency: send
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: '${{ github.token }}', publish_dir: dist, destination_dir: preview}
",
        r#"
== files
index.html
== dulk.toml
[site]
base = "/timetable/"
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build --base=/timetable/
      - run: npx gh-pages -d dist -r $ADDRESS
"#,
        r"
== files
index.html
== vite.config.js
export default { base: './' }
== git
main default
github.com/pier/timetable remote
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist -r $ADDRESS
",
        r#"
== files
index.html
== dulk.toml
[site]
base = "/timetable/"
== git
main default
== gitlab
pages:
  script:
    - npx vite build --base /timetable/ --outDir public
  artifacts: {paths: [public]}
"#,
    ],
    check,
};

/// The path that the site is served under, and where that is known from.
struct Wanted {
    path: String,
    place: Option<Place>,
    /// It is taken from what is usual, and may be set otherwise on the forge.
    usual: bool,
}

fn check(case: &Case<'_>, out: &mut Findings) {
    if is_set_by_a_step(case) {
        return;
    }
    for (job, _, effect) in case.all_effects() {
        let Effect::Build { generator, base: Some((base, origin)), .. } = &effect.effect else { continue };
        if knowledge::generators().get(generator).is_some_and(|known| known.relative_links) {
            continue;
        }
        let Some(published) = publish_of(case, job) else { continue };
        let Some(wanted) = wanted(case, &published) else { continue };
        // An example's address is told as that, and another host than the forge's pages serves the site as it is told to on the forge.
        if let Some(address) = whole_address(case, base, origin)
            && (knowledge::names().sample_host(&address).is_some() || (wanted.usual && !is_of_pages(case, &address)))
        {
            continue;
        }
        let given = path_of_address(base).trim();
        if given.is_empty() || given.starts_with('.') || plain(given) == plain(&wanted.path) {
            continue;
        }
        let message =
            format!("the pages look for their files under {}, and the site is served under {}", slashed(given), wanted.path);
        let finding = out.add(effect.at, message);
        match origin {
            Origin::At(place) => finding.witness(at(*place), format!("{generator} takes the path from here")),
            Origin::Silent(place) => {
                finding.witness(at(*place), format!("nothing here says where the site is served, so {generator} takes /"))
            }
            _ => finding.witness(WitnessSource::Catalog, format!("{generator} takes {} here", slashed(given))),
        };
        say_wanted(finding, &wanted);
        finding.mend(Mend::by_hand(format!("set the base path to {} where {generator} is told about it", wanted.path)));
    }
}

fn say_wanted(finding: &mut Finding, wanted: &Wanted) {
    match wanted.place {
        Some(place) => {
            finding.witness(
                at(place),
                if wanted.path == "/" {
                    "the site is served at the root of an address of its own"
                } else {
                    "the site is served there"
                },
            );
        }
        None => {
            finding.witness(WitnessSource::Git, "a project's pages are served under its name, unless it has a domain of its own");
        }
    }
    if wanted.usual {
        finding.severity(Severity::Warning);
    }
}

fn wanted(case: &Case<'_>, published: &Published<'_>) -> Option<Wanted> {
    let (target, branch, place) = (published.target, published.branch, published.place);
    let inside = match &published.effect.effect {
        Effect::Publish { inside, .. } => inside.as_deref()?.trim_matches('/'),
        _ => "",
    };
    // A folder for trying things out need not work as the site does, and what is declared is the site's own path.
    if !inside.is_empty() && (case.facts.settings.site.base.is_some() || knowledge::names().is_for_trying(inside)) {
        return None;
    }
    if let Some(base) = &case.facts.settings.site.base {
        return Some(Wanted { path: slashed(&base.name), place: Some(base.at), usual: false });
    }
    if let Some(store) = store_of(case, place) {
        return Some(Wanted { path: slashed(inside), place: Some(store.at), usual: false });
    }
    let remote = case.facts.git.remote.known()?;
    let pages = knowledge::forges().pages_of(&remote.host)?;
    let own_branch = branch.is_some_and(|branch| {
        place.is_some_and(|place| {
            let words = ["branch", branch, inside];
            place.split_whitespace().eq(words.into_iter().filter(|word| !word.is_empty()))
        })
    });
    let by_pages = *target == Target::ForgePages || own_branch;
    let at_root = remote.name.eq_ignore_ascii_case(&pages.host.replace("{owner}", &remote.owner));
    if by_pages && let Some(domain) = domain_in_git(case) {
        return Some(Wanted { path: slashed(inside), place: Some(domain), usual: true });
    }
    if !by_pages || at_root || remote.owner.contains('/') || has_own_domain(case) {
        return None;
    }
    Some(Wanted { path: slashed(&format!("{}/{inside}", remote.name)), place: None, usual: true })
}

/// The store that a publish goes to, where a file says that it serves a site at its root.
fn store_of<'c>(case: &Case<'c>, place: Option<&str>) -> Option<&'c WebStore> {
    let bucket = place?.strip_prefix("s3://")?.split('/').next()?;
    let all = case.project.prepared.iter().flat_map(|one| &one.pipeline.stores);
    all.filter(|store| store.at_root).find(|store| store.names.iter().any(|name| name == bucket))
}

/// The address with its host, when the path was given as a part of one.
fn whole_address(case: &Case<'_>, base: &str, origin: &Origin) -> Option<String> {
    let written = match origin {
        Origin::At(place) => case.sources.slice(*place).trim().trim_matches(['"', '\'']),
        _ => base,
    };
    written.contains("://").then(|| written.to_owned())
}

/// Whether an address is one of the forge's own pages.
fn is_of_pages(case: &Case<'_>, address: &str) -> bool {
    let host = address.split_once("://").and_then(|(_, rest)| rest.split(['/', ':']).next()).unwrap_or_default();
    let remote = case.facts.git.remote.known();
    let pages = remote.and_then(|remote| Some((remote, knowledge::forges().pages_of(&remote.host)?)));
    pages.is_some_and(|(remote, pages)| host.eq_ignore_ascii_case(&pages.host.replace("{owner}", &remote.owner)))
}

/// The file in git by which the pages get a domain of their own: they are served at its root then.
fn domain_in_git(case: &Case<'_>) -> Option<Place> {
    case.facts.hosting.iter().filter(|host| host.path.ends_with("CNAME")).find_map(|host| match &host.line {
        Some((domain, Origin::At(place))) if domain.contains('.') && !domain.contains('/') => Some(*place),
        _ => None,
    })
}

/// A step that hands the path to the generator by itself.
fn is_set_by_a_step(case: &Case<'_>) -> bool {
    let mut variables = case.pipeline.jobs.iter().flat_map(|job| &job.steps).flat_map(|step| &step.variables.entries);
    variables.any(|(name, _)| name.value.to_ascii_uppercase().contains("BASE")) || tells_generator(case)
}

fn plain(path: &str) -> String {
    path.trim_matches('/').to_ascii_lowercase()
}

fn slashed(path: &str) -> String {
    let inner = path.trim_matches('/');
    if inner.is_empty() { "/".to_owned() } else { format!("/{inner}/") }
}
