//! A secret that the build puts into the page.

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt, SettingLine};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge::{self, Generator};
use crate::model::{Text, Work};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "secret.published",
    severity: Severity::Warning,
    title: "A secret is built into the page",
    why: "Variables with the generator's public prefix are copied into the page's scripts, where every visitor can read them. \
          Whatever must stay secret cannot go there; whatever may be read need not be a secret.",
    needs: &[],
    bad: &[
        r#"
== steps
      - run: |
          echo "VITE_PLACE=quay" > .env
          echo "VITE_MAP_KEY=${{ «secrets.MAP_KEY» }}" >> .env
      - run: ‹npx vite build›
"#,
        r"
== steps
      - run: ./fetch-tides
        env: {TIDE_KEY: '‹${{ secrets.TIDE_KEY }}›'}
      - run: ‹npx vite build›
        env: {VITE_TIDE_KEY: '«${{ secrets.TIDE_KEY }}»'}
",
        r#"
== package.json
{"devDependencies": {"vite": "7"}}
== src/tides.js
fetch("https://tides.example", { headers: { authorization: `Bearer ${‹import.meta.env.VITE_TIDE_KEY›}` } })
== steps
      - uses: actions/checkout@v5
      - run: ‹npx vite build›
        env: {VITE_TIDE_KEY: '«${{ secrets.TIDE_KEY }}»'}
"#,
        r"
== steps
      - run: ‹npx vite build›
        env: {VITE_KEY: '«${{ secrets.MAP_KEY }}»'}
",
        r#"
== dulk.toml
[forge]
secrets = ["MAP_KEY"]
== gitlab
build:
  variables:
    VITE_MAP_KEY: «$MAP_KEY»
  script:
    - npm ci
    - ‹npx vite build›
"#,
        r"
== files
index.html
== buildspec.yml
version: 0.2
env:
  secrets-manager:
    «VITE_BUOY_TOKEN»: timetable/buoys:token
phases:
  build:
    commands:
      - ‹npx vite build›
",
    ],
    good: &[
        r"
== steps
      - run: npx vite build
        env: {KEY: '${{ secrets.MAP_KEY }}', VITE_SITE: '${{ vars.SITE }}'}
      - run: npx astro build
        env: {VITE_KEY_OF_ANOTHER: '${{ vars.X }}'}
",
        r#"
== dulk.toml
[forge]
secrets = ["MAP_KEY"]
variables = ["SITE_URL"]
== gitlab
build:
  variables:
    VITE_SITE_URL: $SITE_URL
    MAP: $MAP_KEY
  script:
    - npm ci
    - npx vite build
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut spoken = Vec::new();
    let settings = settings(case);
    for (job, step, effect) in case.all_effects() {
        let before = &settings[job][..settings[job].partition_point(|(number, _)| *number <= step)];
        written_before(case, before, effect, out);
        let Effect::Build { generator, .. } = &effect.effect else { continue };
        let Some(known) = knowledge::generators().get(generator) else { continue };
        from_a_safe(case, (job, effect), known, &mut spoken, out);
        for (name, value) in case.layers(job, step).into_iter().flat_map(|layer| &layer.entries) {
            let public = known.public_prefixes.iter().any(|prefix| name.value.starts_with(prefix));
            if !public || case.only_secret(value).is_none() || spoken.contains(&value.at) {
                continue;
            }
            spoken.push(value.at);
            let finding = out.add(
                value.inner(),
                format!("every visitor can read this secret: {generator} copies {} into the page", name.value),
            );
            finding.witness(at(effect.at), format!("{generator} builds the page with it here"));
            match (kept_private(case, known, value), sent_by_page(case, &name.value)) {
                (Some(place), _) => {
                    finding.severity(Severity::Error).witness(at(place), "here the same secret is kept from visitors");
                }
                (None, Some(place)) => {
                    finding.severity(Severity::Error).witness(at(place), "the page itself sends it as a credential");
                }
                (None, None) => {}
            }
            finding.mend(Mend::by_hand(
                "if visitors may read it, keep it as a variable of the repository (vars); if not, do not give it to the page",
            ));
        }
    }
}

/// A credential of a safe has the name of a variable that is copied into the page.
fn from_a_safe(
    case: &Case<'_>,
    (job, build): (usize, &EffectAt),
    known: &Generator,
    spoken: &mut Vec<Place>,
    out: &mut Findings,
) {
    for name in case.credentials_of(job) {
        let public = known.public_prefixes.iter().any(|prefix| name.value.starts_with(prefix));
        if !public || spoken.contains(&name.at) {
            continue;
        }
        spoken.push(name.at);
        out.add(name.inner(), format!("every visitor can read this secret: {} copies {} into the page", known.id, name.value))
            .witness(at(build.at), format!("{} builds the page with it here", known.id))
            .mend(Mend::by_hand(
                "if visitors may read it, keep it among the plain variables; if not, do not give it to the page",
            ));
    }
}

/// By job: the lines that its steps write into the file that sets variables, each with its step.
fn settings<'c>(case: &'c Case<'_>) -> Vec<Vec<(usize, &'c SettingLine)>> {
    let of_steps = case.effects.jobs.iter().map(|steps| steps.iter().enumerate());
    of_steps
        .map(|steps| steps.flat_map(|(step, effects)| effects.settings.iter().map(move |line| (step, line))).collect())
        .collect()
}

/// A step before the build has written a secret into the file that sets variables for it.
fn written_before(case: &Case<'_>, lines: &[(usize, &SettingLine)], build: &EffectAt, out: &mut Findings) {
    let Effect::Build { generator, .. } = &build.effect else { return };
    let Some(known) = knowledge::generators().get(generator) else { return };
    let lines = lines.iter().map(|(_, line)| line);
    for line in lines.filter(|line| known.public_prefixes.iter().any(|prefix| line.name.starts_with(prefix))) {
        let Some(read) = case.secrets().find(|read| line.at.holds(read.at)) else { continue };
        let name = &line.name;
        out.add(read.at, format!("every visitor can read this secret: {generator} copies {name} into the page"))
            .witness(at(build.at), format!("{generator} builds the page with it here"))
            .mend(Mend::by_hand(
                "if visitors may read it, keep it as a variable of the repository (vars); if not, do not give it to the page",
            ));
    }
}

/// Where the same secret is given to something under a name that is not copied into the page.
fn kept_private(case: &Case<'_>, generator: &Generator, public: &Text) -> Option<Place> {
    let secret = &case.only_secret(public)?.name;
    let is_public = |name: &str| generator.public_prefixes.iter().any(|prefix| name.starts_with(prefix));
    let same = |value: &Text| case.only_secret(value).is_some_and(|read| read.name == *secret);
    let steps = case.pipeline.jobs.iter().flat_map(|job| &job.steps);
    steps
        .flat_map(|step| {
            let inputs = match &step.work {
                Work::Uses { inputs, .. } => inputs.entries.as_slice(),
                _ => &[],
            };
            let variables = step.variables.entries.iter().filter(|(name, _)| !is_public(&name.value));
            variables.chain(inputs).map(|(_, value)| value).collect::<Vec<_>>()
        })
        .find(|value| same(value))
        .map(Text::inner)
}

/// Where the page's sources put the variable into the header of a request that says who asks.
fn sent_by_page(case: &Case<'_>, name: &str) -> Option<Place> {
    let read = case.facts.page_variables.iter().find(|read| read.name == name)?;
    let source = case.sources.get(read.at.file);
    let line = source.text[..read.at.span.start as usize].rsplit('\n').next().unwrap_or_default().to_ascii_lowercase();
    ["bearer", "authorization", "x-api-key"].iter().any(|word| line.contains(word)).then_some(read.at)
}
