//! A host that is told another folder than the one the build writes.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::facts::Origin;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::rules::{Need, Rule};
use crate::text::from_root;

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
    let Some(files) = case.facts.files.known() else { return };
    for published in case.publishes().into_iter().filter(|published| published.folder.is_none()) {
        let Some(hosting) =
            case.facts.hosting.iter().find(|hosting| hosting.host == published.target && !hosting.path.contains('/'))
        else {
            continue;
        };
        let Some((folder, Origin::At(place))) = &hosting.folder else { continue };
        let wanted = from_root(folder).trim_end_matches('/');
        let before = || case.effects.of_job(published.job).filter(|(step, _)| *step <= published.step);
        let unclear = before().any(|(_, effect)| {
            matches!(&effect.effect, Effect::Unknown(reach) if reach.may_touch(wanted, |folder| files.has_folder(folder)))
                || matches!(
                    &effect.effect,
                    Effect::Copy { .. } | Effect::Download { .. } | Effect::Write { .. } | Effect::Build { output: None, .. }
                )
        });
        let builds: Vec<(&str, crate::text::Place, &str)> = before()
            .filter_map(|(_, effect)| match &effect.effect {
                Effect::Build { output: Some(output), generator, .. } => Some((output.as_str(), effect.at, generator.as_str())),
                _ => None,
            })
            .collect();
        let fits = builds.iter().any(|(output, ..)| {
            *output == wanted || output.starts_with(&format!("{wanted}/")) || wanted.starts_with(&format!("{output}/"))
        });
        let Some((output, build, generator)) = builds.last().filter(|_| !unclear && !fits && !files.has_folder(wanted)) else {
            continue;
        };
        out.add(*place, format!("{} publishes `{wanted}`, and nothing makes it: the build writes `{output}`", published.target))
            .witness(at(*build), format!("{generator} writes `{output}` here"))
            .mend(Mend::likely(format!("write {output}"), [Edit::replace(*place, format!("\"{output}\""))]));
    }
}
