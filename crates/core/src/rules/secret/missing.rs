//! A publisher without the credential that it needs.

use crate::case::{Case, at};
use crate::effects::{Effect, WantedCredential};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed};
use crate::model::{Text, Work};
use crate::rules::Rule;
use crate::text::Place;

use super::{given_elsewhere, lacking, reads_variable, texts_of};

pub const RULE: Rule = Rule {
    id: "secret.missing",
    severity: Severity::Error,
    title: "A publisher lacks its credential",
    why: "Whoever puts a site on a host has to show a token or a key. Without one the step asks for it, or fails, at the very \
          end of the run.",
    needs: &[],
    bad: &[
        r#"
== scripts/tides.mjs
const key = ‹process.env.TIDE_KEY›
if (!key) throw new Error('no key')
== steps
      - uses: actions/checkout@v5
      - run: echo "PLACE=quay" >> "$GITHUB_ENV"
      - run: «node scripts/tides.mjs»
        env:
          ‹TIDE_TOKEN›: ${{ secrets.TIDE_KEY }}
"#,
        r"
== steps
      - run: «netlify deploy --prod»
",
        r"
== dulk.toml
[forge]
secrets = []
variables = []
== gitlab
publish:
  script:
    - «npx netlify deploy --prod --dir dist»
",
        r"
== git
main default
== dulk.toml
[forge]
secrets = []
== .travis.yml
language: generic
script: make
deploy:
  provider: «pages»
  edge: true
  local_dir: dist
  on: {branch: main}
",
    ],
    good: &[
        // It is given, or it does without.
        r#"
== scripts/tides.mjs
if (!process.env.TIDE_KEY) throw new Error('no key')
const place = process.env.PLACE ?? 'quay'
== package.json
{"scripts": {"tides": "node scripts/tides.mjs", "local": "TIDE_KEY=none node scripts/tides.mjs"}}
== steps
      - uses: actions/checkout@v5
      - run: npm run tides
        env:
          TIDE_KEY: ${{ secrets.TIDE_KEY }}
      - run: npm run local
      - run: if [ -n "$LATE" ]; then node scripts/tides.mjs; fi
"#,
        r"
== pipeline
on: push
env: {NETLIFY_AUTH_TOKEN: '${{ secrets.N }}'}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: netlify deploy --prod
      - run: npx surge dist ferry.example --token ${{ secrets.S }}
      - run: CLOUDFLARE_API_TOKEN=$X npx wrangler pages deploy dist
",
        r#"
== steps
      - run: echo "NETLIFY_AUTH_TOKEN=x" >> "$GITHUB_ENV"
      - run: netlify deploy --prod
"#,
        r#"
== dulk.toml
[forge]
secrets = ["NETLIFY_AUTH_TOKEN"]
variables = []
== gitlab
publish:
  script:
    - npx netlify deploy --prod --dir dist
"#,
        r"
== gitlab
publish:
  script:
    - npx netlify deploy --prod --dir dist
",
        r"
== dulk.toml
[forge]
secrets = []
variables = []
== buildspec.yml
version: 0.2
env:
  secrets-manager:
    NETLIFY_AUTH_TOKEN: timetable/publishing
phases:
  build:
    commands:
      - npx netlify deploy --prod --dir dist
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let all: Vec<(usize, usize, &WantedCredential)> = lacking(case)
        .into_iter()
        // When another step of the job is given it, that is what has to be said.
        .filter(|(job, step, wanted)| given_elsewhere(case, *job, *step, &wanted.variables).is_none())
        .collect();
    for (index, (job, step, wanted)) in all.iter().enumerate() {
        if let Some(read) = wanted.read_at {
            not_given(case, *job, *step, wanted, read, out);
            continue;
        }
        // Several things that one command lacks are said together.
        if all[..index].iter().any(|(_, _, other)| other.at == wanted.at && other.read_at.is_none()) {
            continue;
        }
        let group: Vec<Vec<String>> = all
            .iter()
            .filter(|(_, _, other)| other.at == wanted.at && other.read_at.is_none())
            .map(|(job, step, other)| ways(case, *job, *step, other))
            .collect();
        let first: Vec<String> = group.iter().filter_map(|ways| ways.first().cloned()).collect();
        let together: Vec<String> = group.iter().map(|ways| ways.join(" or ")).collect();
        let wants = listed(&first);
        out.add(wanted.at, format!("this fails: `{}` is not given {wants}", wanted.publisher))
            .witness(WitnessSource::Catalog, format!("it takes {}", listed(&together)))
            .mend(Mend::by_hand(format!("give it {wants}, from a secret")));
    }
}

/// The ways in which a credential can be given, in words, the usual one first.
fn ways(case: &Case<'_>, job: usize, step: usize, wanted: &WantedCredential) -> Vec<String> {
    let by_itself = matches!(case.pipeline.jobs[job].steps[step].work, Work::ByItself(_));
    let variables = wanted.variables.iter().map(|name| format!("the variable {name}"));
    let kind = |name: &String| match (name.starts_with('-'), by_itself) {
        (true, _) => format!("the option {name}"),
        (false, true) => format!("the key {name}"),
        (false, false) => format!("the input {name}"),
    };
    let inputs = wanted.inputs.iter().map(kind);
    if by_itself { inputs.chain(variables).collect() } else { variables.chain(inputs).collect() }
}

/// A program of the repository ends without a variable.
fn not_given(case: &Case<'_>, job: usize, step: usize, wanted: &WantedCredential, read: Place, out: &mut Findings) {
    let Some(name) = wanted.variables.first() else { return };
    let finding = out.add(wanted.at, format!("this fails: `{}` ends without {name}, and nothing gives it", wanted.publisher));
    finding.witness(at(read), "it is read here, and must be set");
    match misnamed(case, job, step, name) {
        Some(given) => {
            finding.witness(at(given.at), format!("{} is given instead, which nothing here reads", given.value));
            finding.mend(Mend::likely(format!("call it {name}"), [Edit::replace(given.inner(), name.clone())]));
        }
        None => {
            finding.mend(Mend::by_hand(format!("give {name} to this step")));
        }
    }
}

/// A variable of the step that nothing in it knows, and that is meant to be this one: it holds the secret of that name, or its name
/// begins or ends alike.
fn misnamed<'c>(case: &'c Case<'_>, job: usize, step: usize, wanted: &str) -> Option<&'c Text> {
    let of_step = &case.pipeline.jobs[job].steps[step];
    let effects = &case.effects.jobs[job][step].effects;
    let unread = |name: &str| {
        let by_program = effects.iter().any(|effect| matches!(&effect.effect, Effect::Unknown(reach) if reach.knows(name)));
        !by_program && !texts_of(of_step).any(|text| reads_variable(&text.value, name))
    };
    let alike =
        |name: &str| name.split('_').next() == wanted.split('_').next() || name.rsplit('_').next() == wanted.rsplit('_').next();
    let mut given = of_step.variables.entries.iter().filter(|(name, value)| {
        let of_name = case.only_secret(value).is_some_and(|read| read.name == wanted);
        (of_name || alike(&name.value)) && unread(&name.value)
    });
    match (given.next(), given.next()) {
        (Some((name, _)), None) => Some(name),
        _ => None,
    }
}
