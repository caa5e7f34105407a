//! A host that is told another folder than the one the build writes.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::rules::{Need, Rule};
use crate::text::Place;
use crate::trail::{Handover, Standing};

pub const RULE: Rule = Rule {
    id: "site.other-folder",
    severity: Severity::Error,
    title: "The host is told another folder than the build writes",
    why: "Some hosts read the published folder from a file of their own. When that names another folder than the one the build \
          writes, the publish finds nothing, or an old site.",
    needs: &[Need::Files],
    bad: &[
        r#"
== files
site/index.html
== wrangler.toml
name = "quay"
assets = { directory = «"public"» }
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx wrangler deploy
        env: {CLOUDFLARE_API_TOKEN: '${{ secrets.CF }}', CLOUDFLARE_ACCOUNT_ID: '${{ secrets.CF_ID }}'}
"#,
        // The folder is in git, but the site is only made from it.
        r#"
== files
public/index.html
== package.json
{"dependencies": {"react-scripts": "5"}}
== firebase.json
{"hosting": {"public": «"public"»}}
== git
main default
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ‹npx react-scripts build›
      - uses: actions/upload-artifact@v5
        with: {name: site, path: build}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/download-artifact@v5
        with: {name: site, path: build}
      - run: npx firebase deploy --token x
"#,
        r#"
== files
index.html
== firebase.json
{"hosting": {"public": «"build"»}}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: ‹npx vite build›
      - run: npx firebase deploy --token x
"#,
        r#"
== files
index.html
== firebase.json
{"hosting": {"public": «"build"»}}
== git
main default
== gitlab
publish:
  script:
    - ‹npx vite build›
    - npx firebase deploy --token x
"#,
    ],
    good: &[
        r#"
== files
index.html
== firebase.json
{"hosting": {"public": "dist"}}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx firebase deploy --token x
"#,
        r#"
== files
index.html
== firebase.json
{"hosting": {"public": "build"}}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build && cp -r dist build
      - run: npx firebase deploy --token x
"#,
        r#"
== files
index.html
== firebase.json
{"hosting": {"public": "dist"}}
== git
main default
== gitlab
publish:
  resource_group: publish
  script:
    - npx vite build
    - npx firebase deploy --token x
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for hosted in case.trail.hosted.iter().filter(|one| case.pipeline.jobs[one.job].steps[one.step].cleans.is_none()) {
        match hosted.standing {
            Standing::Never => nothing_there(case, hosted, out),
            Standing::There => sources_there(case, hosted, out),
            Standing::Perhaps => {}
        }
    }
}

fn target_of<'c>(case: &'c Case<'_>, hosted: &Handover) -> &'c str {
    let published = case.published().find(|one| (one.job, one.step) == (hosted.job, hosted.step));
    published.map_or("the host", |published| published.target.word())
}

fn nothing_there(case: &Case<'_>, hosted: &Handover, out: &mut Findings) {
    let (place, target) = (hosted.path.at, target_of(case, hosted));
    let wanted = hosted.path.folder.as_deref().unwrap_or_default();
    let unmade = format!("{target} publishes `{wanted}`, and nothing makes it");
    if let Some(built) = hosted.built.last() {
        out.add(place, format!("{unmade}: the build writes `{}`", built.output))
            .witness(at(built.at), format!("{} writes `{}` here", built.generator, built.output))
            .mend(write(place, &built.output));
    } else if let Some((name, folder)) = &hosted.brought {
        let brought = case
            .effects
            .of_job(hosted.job)
            .find(|(step, effect)| *step < hosted.step && matches!(effect.effect, Effect::Download { .. }));
        let finding = out.add(place, format!("{unmade}: the artifact `{name}` is laid into `{folder}`"));
        match brought {
            Some((_, effect)) => finding.witness(at(effect.at), "it is fetched here"),
            None => finding.witness(WitnessSource::Files, format!("git tracks no `{wanted}`")),
        };
        finding.mend(write(place, folder));
    } else {
        out.add(place, unmade)
            .witness(WitnessSource::Files, format!("git tracks no `{wanted}`, and no step before makes one"))
            .mend(Mend::by_hand("write the folder that the site is in, or build it before"));
    }
}

/// The folder is there, but it is one that the site is made from.
fn sources_there(case: &Case<'_>, hosted: &Handover, out: &mut Findings) {
    let Some(wanted) = hosted.path.folder.as_deref().filter(|_| hosted.only_tracked.is_some()) else { return };
    let before = case.pipeline.upstream(hosted.job).into_iter().chain([hosted.job]);
    let mut builds = before.flat_map(|job| case.effects.of_job(job)).filter_map(|(_, effect)| match &effect.effect {
        Effect::Build { generator, output: Some(output), .. } => {
            Some((effect.at, knowledge::generators().get(generator)?, output))
        }
        _ => None,
    });
    let Some((build, generator, output)) = builds.next().filter(|_| builds.next().is_none()) else { return };
    if generator.sources.contains(&wanted) && output != wanted {
        let target = target_of(case, hosted);
        let (place, id) = (hosted.path.at, &generator.id);
        out.add(place, format!("{target} publishes `{wanted}`, which {id} makes the site from: the build writes `{output}`"))
            .witness(at(build), format!("{id} writes `{output}` here"))
            .mend(write(place, output));
    }
}

fn write(place: Place, folder: &str) -> Mend {
    Mend::likely(format!("write {folder}"), [Edit::replace(place, format!("\"{folder}\""))])
}
