//! An image that is made of something that is not there.

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt, is_inside, normal};
use crate::facts::Facts;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;
use crate::text::{Place, Sources};
use crate::trail::{Handover, Standing};

pub const RULE: Rule = Rule {
    id: "artifact.not-in-image",
    severity: Severity::Error,
    title: "An image takes in what is not there",
    why: "An image is made of a folder, and its file says what is copied out of that folder. What is not there when the image is made \
          cannot be copied: the step fails. A site that is built before belongs into the image under the folder that its build writes.",
    needs: &[],
    bad: &[
        r#"
== package.json
{"devDependencies": {"vite": "7"}, "scripts": {"build": "vite build"}}
== files
package-lock.json
quay.conf
== Dockerfile
FROM nginx:1.29
COPY quay.conf /etc/nginx/conf.d/
COPY «public» /usr/share/nginx/html
== cloudbuild.yaml
steps:
  - name: node:24
    entrypoint: npm
    args: [ci]
  - name: node:24
    entrypoint: ‹npm›
    args: [run, build]
  - name: gcr.io/cloud-builders/docker
    args: [‹build, -t, 'gcr.io/$PROJECT_ID/timetable:$SHORT_SHA', .›]
"#,
        // The build comes later.
        r#"
== package.json
{"devDependencies": {"vite": "7"}, "scripts": {"build": "vite build"}}
== files
package-lock.json
== web/Dockerfile
FROM nginx:1.29
COPY ‹dist/› /usr/share/nginx/html
== steps
      - uses: actions/checkout@v5
      - run: npm ci
      - run: «docker build --file web/Dockerfile --tag timetable .»
      - run: ‹npm run build›
"#,
        // No such file.
        r"
== files
docker/site.Dockerfile
== cloudbuild.yaml
steps:
  - name: gcr.io/cloud-builders/docker
    args: [«build, -t, timetable, -f, docker/Dockerfile, .»]
",
        // It is kept out of the image's folder.
        r"
== files
dist/index.html
== .dockerignore
‹dist›
== Dockerfile
FROM nginx:1.29
COPY «dist» /usr/share/nginx/html
== gitlab
pack:
  script:
    - docker build -t timetable .
",
    ],
    good: &[
        // One stage builds what the other takes.
        r#"
== package.json
{"devDependencies": {"vite": "7"}, "scripts": {"build": "vite build"}}
== Dockerfile
FROM node:24 AS made
COPY package*.json ./
RUN npm ci
COPY . .
RUN npm run build
FROM nginx:1.29
COPY --from=made /dist /usr/share/nginx/html
== .dockerignore
node_modules
*
!package*.json
== cloudbuild.yaml
steps:
  - name: gcr.io/cloud-builders/docker
    args: [build, -t, timetable, .]
"#,
        r#"
== package.json
{"devDependencies": {"vite": "7"}, "scripts": {"build": "vite build"}}
== web/Dockerfile
FROM nginx:1.29
COPY dist/ /usr/share/nginx/html
== steps
      - uses: actions/checkout@v5
      - run: npm ci
      - run: npm run build
      - run: mkdir image && cp -r dist image/dist && ./sign image
      - run: docker build -f web/Dockerfile -t timetable image
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.facts.files.known().is_none() {
        return;
    }
    let mut told: Vec<Place> = Vec::new();
    for packed in &case.trail.packed {
        let makes =
            |effect: &&EffectAt| matches!(&effect.effect, Effect::MakeImage { takes, .. } if is_of(packed, takes, effect.at));
        let mut own = case.effects.of_job(packed.job).filter(|(step, _)| *step == packed.step).map(|(_, effect)| effect);
        let Some(made) = own.find(makes).filter(|made| !made.perhaps && !made.forgiven) else { continue };
        if told.contains(&packed.path.at) {
            continue;
        }
        if packed.standing == Standing::Never {
            told.push(packed.path.at);
            absent(case, packed, made, out);
        } else if let Some(line) = ignored(case.facts, case.sources, packed, made) {
            told.push(packed.path.at);
            out.add(packed.path.at, format!("`{}` is kept out of the folder that the image is made of", packed.path.written))
                .witness(at(line), "it is left out here")
                .mend(Mend::by_hand("take it off that list, or add an exception with `!` before it"));
        }
    }
}

/// Whether a path is one that an image is made of, and not that of another image of the same step.
fn is_of(packed: &Handover, takes: &[crate::effects::UploadPath], command: Place) -> bool {
    packed.path.at == command || takes.contains(&packed.path)
}

fn absent(case: &Case<'_>, packed: &Handover, made: &EffectAt, out: &mut Findings) {
    let folder = packed.path.folder.as_deref().unwrap_or_default();
    let written = &packed.path.written;
    let writes = |effect: &EffectAt| matches!(&effect.effect, Effect::Build { output: Some(output), .. } if output == folder);
    let later = case.effects.of_job(packed.job).find(|(step, effect)| *step >= packed.step && writes(effect));
    if let Some((_, build)) = later {
        let finding = out.add(made.at, format!("the image takes in `{written}`, which is built only later"));
        finding.witness(at(build.at), "it is built only here");
        if packed.path.at != made.at {
            finding.witness(at(packed.path.at), "it is taken in here");
        }
        finding.mend(Mend::by_hand("move the build before it"));
        return;
    }
    if packed.path.at == made.at {
        out.add(made.at, format!("there is no `{written}`, and the image cannot be made"))
            .witness(WitnessSource::Files, format!("git tracks no `{folder}`, and no step before makes one"))
            .mend(Mend::by_hand("write the file and the folder that are there"));
        return;
    }
    let finding = out.add(packed.path.at, format!("there is no `{written}` when the image is made: this step fails"));
    match packed.built.last() {
        Some(built) => {
            finding.witness(at(built.at), format!("{} writes `{}` here", built.generator, built.output));
            let mend = match packed.path.exact(case.sources) {
                Some(place) => Mend::likely(format!("write {}", built.output), [Edit::replace(place, built.output.clone())]),
                None => Mend::by_hand(format!("copy `{}`", built.output)),
            };
            finding.mend(mend);
        }
        None => {
            finding.witness(WitnessSource::Files, format!("git tracks no `{folder}`, and no step before makes one"));
            finding.mend(Mend::by_hand("write the folder that is there, or build the site before the image"));
        }
    }
    if packed.path.at.file != made.at.file {
        finding.witness(at(made.at), "the image is made here");
    }
}

/// The line of the list that keeps a path out of the folder that an image is made of.
fn ignored(facts: &Facts, sources: &Sources, packed: &Handover, made: &EffectAt) -> Option<Place> {
    let Effect::MakeImage { context: Some(context), .. } = &made.effect else { return None };
    if packed.path.glob || packed.path.at == made.at {
        return None;
    }
    let list = if context.is_empty() { ".dockerignore".to_owned() } else { format!("{context}/.dockerignore") };
    let file = *facts.texts.get(&list)?;
    let source = sources.get(file);
    let path = normal(&packed.path.written).filter(|path| !path.is_empty())?;
    let mut found = None;
    let mut start = 0;
    for line in source.text.split_inclusive('\n') {
        let from = start;
        start += line.len();
        let written = line.trim();
        let pattern = normal(written.trim_start_matches('!')).unwrap_or_default();
        if pattern.is_empty() || written.starts_with('#') {
            continue;
        }
        match (written.starts_with('!'), takes_in(&pattern, &path)) {
            // An exception that is not understood, or that is for a part of it, may bring it back.
            (true, Some(true) | None) => found = None,
            (true, Some(false)) if pattern.starts_with(&format!("{path}/")) => found = None,
            (false, Some(true)) => {
                let begin = from + line.find(written).unwrap_or(0);
                found = Some(Place { file, span: crate::text::Span::new(begin, begin + written.len()) });
            }
            _ => {}
        }
    }
    found
}

/// Whether a pattern of such a list takes a path in; nothing where it holds stars that are not looked into.
fn takes_in(pattern: &str, path: &str) -> Option<bool> {
    if pattern == "*" || pattern == "**" {
        return Some(true);
    }
    match pattern.strip_prefix("**/") {
        Some(name) if !name.contains(['*', '?', '[']) => Some(is_inside(path, name) || path.split('/').any(|part| part == name)),
        _ if pattern.contains(['*', '?', '[']) => None,
        _ => Some(is_inside(path, pattern)),
    }
}
