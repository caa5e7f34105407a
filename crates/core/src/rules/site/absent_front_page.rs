//! A store answers with a page that nothing makes.

use crate::case::{Case, at};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::model::Text;
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.absent-front-page",
    severity: Severity::Error,
    title: "The site answers with a page that nothing makes",
    why: "A bucket that serves a site is told which page answers for the address of a folder. Where there is no such page, whoever comes to \
          the site is turned away, though all other pages are there.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
index.html
vite.config.js
== infra/site.yml
Resources:
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      ‹WebsiteConfiguration›: {IndexDocument: «home.html»}
",
        r"
== files
index.html
== infra/site.yml
Resources:
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      ‹WebsiteConfiguration›: {IndexDocument: «/index.html»}
",
    ],
    good: &[
        r"
== files
pages/start.njk
== infra/site.yml
Resources:
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      WebsiteConfiguration: {IndexDocument: start.html, ErrorDocument: 404.html}
",
        r"
== files
src/main.js
== infra/site.yml
Resources:
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      WebsiteConfiguration: {IndexDocument: index.html}
",
    ],
    check,
};

/// The front page of nearly all sites.
const USUAL: &str = "index.html";

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    for store in &case.pipeline.stores {
        let Some(index) = store.index.as_ref().filter(|index| index.known().is_some()) else { continue };
        let name = index.value.as_str();
        if name.contains('/') {
            speak(index, store.at, "the page is named without a folder and without a slash".to_owned(), out);
            continue;
        }
        let stem = name.split('.').next().unwrap_or(name);
        let makes = |path: &str| path.rsplit('/').next().is_some_and(|file| file.split('.').next() == Some(stem));
        let spoken_of = case.texts().iter().any(|(_, text)| text.value.contains(name));
        if name != USUAL && !files.iter().any(makes) && !spoken_of {
            speak(index, store.at, format!("nothing in the repository is called {stem}, and no command makes {name}"), out);
        }
    }
}

fn speak(index: &Text, store: crate::text::Place, because: String, out: &mut Findings) {
    out.add(index.inner(), format!("visitors are turned away: there is no page `{}`", index.value))
        .witness(at(store), "the site is served from here")
        .witness(WitnessSource::Files, because)
        .mend(Mend::likely(format!("write {USUAL}"), [Edit::replace(index.inner(), USUAL)]));
}
