//! A publish that happens although something before it failed.

use crate::case::{Case, Published, at};
use crate::effects::{Effect, EffectAt};
use crate::expression::{Expr, ExprKind};
use crate::finding::{Edit, Findings, Mend, Severity, listed};
use crate::model::{Condition, Outcome, Step, Text, Then, Work};
use crate::pen::{self, Ask};
use crate::rehearsal::{Answer, Equality, Occasion, OccasionKind, Value, evaluate};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "order.publishes-after-failure",
    severity: Severity::Error,
    title: "The site is published although a step before failed",
    why: "After a failure the rest is skipped, so that nothing half-made goes online. A condition such as always(), or a failure \
          that is passed over, takes that away: the old, empty or broken folder is published, and the run is green.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/checkout@v5
      - run: «npx vitest run || true»
      - run: ‹npx gh-pages -d dist›
",
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx vite build
  publish:
    needs: ‹build›
    if: «always()»
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
== gitlab
build:
  stage: build
  script:
    - «npx vite build || true»
  artifacts: {paths: [dist]}
‹pages›:
  stage: deploy
  script:
    - mv dist public
  artifacts: {paths: [public]}
",
        r"
== git
main default
== gitlab
publish:
  script:
    - ‹npx vite build›
  after_script:
    - «rsync -a dist/ pier@tarnsay.example:/www»
",
        r#"
== git
main default
== package.json
{"scripts": {"build": "vite build", "test": "vitest run"}, "devDependencies": {"vite": "7", "vitest": "3"}}
== files
package-lock.json
== .travis.yml
language: node_js
node_js: '24'
script:
  - «npx vitest run || true»
  - npx vite build
deploy:
  provider: ‹s3›
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  local_dir: dist
  on: {branch: main}
"#,
        r#"
== git
main default
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "make"
    - action: ‹"Send"›
      type: "SFTP"
      trigger_time: «"ON_FAILURE"»
      local_path: "dist"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
"#,
        r"
== git
main default
== files
index.html
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - ‹npx vite build›
  ‹post_build›:
    commands:
      - «aws s3 sync dist s3://tarnsay-timetable --delete»
",
        r#"
== git
main default
== files
index.html
== package.json
{"scripts": {"build": "vite build", "test": "vitest run"}, "devDependencies": {"vite": "7", "vitest": "3"}}
== package-lock.json
{}
== buildspec.yml
version: 0.2
phases:
  pre_build:
    on-failure: «CONTINUE»
    commands:
      - npm ci
      - npm test
  build:
    on-failure: ABORT
    commands:
      - npm ci
      - npm run build
      - ‹aws s3 sync dist s3://tarnsay-timetable --delete›
"#,
    ],
    good: &[
        // The first is told to end, the second asks.
        r"
== git
main default
== files
index.html
== dulk.toml
[[starts]]
file = 'buildspec.yml'
push = ['main']
== buildspec.yml
version: 0.2
phases:
  build:
    on-failure: ABORT
    commands:
      - npx vite build
  post_build:
    commands:
      - aws s3 sync dist s3://tarnsay-timetable --delete
",
        r#"
== git
main default
== files
index.html
== dulk.toml
[[starts]]
file = 'buildspec.yml'
push = ['main']
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - npx vite build
  post_build:
    commands:
      - test "$CODEBUILD_BUILD_SUCCEEDING" = 1 || exit 1
      - aws s3 sync dist s3://tarnsay-timetable --delete
"#,
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx vite build
  publish:
    needs: build
    if: always() && needs.build.result == 'success'
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx vite build
  publish:
    needs: build
    if: ${{ !failure() && !cancelled() }}
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
== gitlab
build:
  stage: build
  script:
    - npx vite build
  artifacts: {paths: [dist]}
pages:
  stage: deploy
  script:
    - mv dist public
  artifacts: {paths: [public]}
",
        r"
== git
main default
== gitlab
publish:
  resource_group: site
  script:
    - npx vite build
    - rsync -a dist/ pier@tarnsay.example:/www
  after_script:
    - rm -rf dist
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    after_another(case, out);
    let makers = makers(case);
    for published in case.published() {
        let job = &case.pipeline.jobs[published.job];
        if let Some(call) = job.within.as_ref().and_then(|call| case.pipeline.job(&call.value)) {
            survives_in_a_call(case, call, out);
        }
        if let Some(condition) = job.condition().filter(|condition| !job.needs.is_empty() && survives_failure(condition)) {
            let needs = job.needs_at.unwrap_or(job.needs[0].at);
            let place = job.needs.first().filter(|_| job.needs.len() == 1).map_or(needs, |need| need.at);
            speak_of_condition(
                case,
                &condition.text,
                &format!("`{}` publishes even when what it waits for has failed", job.id.value),
                place,
                "it waits for this",
                out,
            );
        }
        always_chosen(case, &published, out);
        let step = &job.steps[published.step];
        let earlier = |wanted: &dyn Fn(&EffectAt) -> bool| {
            case.effects
                .of_job(published.job)
                .filter(|(number, _)| (step.survives_from..published.step).contains(number))
                .find(|(_, effect)| wanted(effect))
                .map(|(number, effect)| (number, effect.at))
        };
        if let Some(condition) = step.condition().filter(|condition| survives_failure(condition))
            && let Some((_, build)) = earlier(&|effect| makes_the_site(&effect.effect))
        {
            speak_of_condition(
                case,
                &condition.text,
                "this step publishes even when a step before it has failed",
                build,
                "when this fails, there is nothing new to publish",
                out,
            );
        }
        if step.after == Outcome::Any
            && !asks_for_success(case, step)
            && let Some((_, build)) = earlier(&|effect| makes_the_site(&effect.effect))
        {
            runs_anyway(case, &published, build, out);
        }
        passed_over(case, &makers, &published, out);
    }
    for published in case.published() {
        only_after_failure(case, &published, out);
    }
}

/// A step that the format runs after failures too publishes what a build before it was to make.
fn runs_anyway(case: &Case<'_>, published: &Published<'_>, build: Place, out: &mut Findings) {
    let step = &case.pipeline.jobs[published.job].steps[published.step];
    let finding =
        out.add(published.effect.at, "this publishes even when a command before it has failed: it runs whatever happened");
    finding.witness(at(build), "when this fails, there is nothing new to publish");
    match step.after_at {
        // What stands there is usually a folder that a failed build has not made, so that the command fails as well.
        Some(said) => {
            finding.severity(Severity::Warning).witness(at(said), "this is run after a failure too");
            finding.mend(pen::write(case, &Ask::OnlyAfterSuccess));
        }
        None => {
            finding.mend(Mend::by_hand("publish where only what has succeeded goes on: at the end of the script itself"));
        }
    }
}

/// The commands ask themselves whether all has gone well so far.
fn asks_for_success(case: &Case<'_>, step: &Step) -> bool {
    let asked = |script: &Text| case.pipeline.customs.success_variables.iter().any(|name| script.value.contains(name));
    matches!(&step.work, Work::Runs { script, .. } if asked(script))
}

/// A call of a pipeline that publishes, made whatever happened before.
fn survives_in_a_call(case: &Case<'_>, call: usize, out: &mut Findings) {
    let job = &case.pipeline.jobs[call];
    let Some(condition) = job.condition().filter(|condition| survives_failure(condition)) else { return };
    let Some(need) = job.needs.first() else { return };
    let message = format!("`{}` publishes even when what it waits for has failed", job.id.value);
    speak_of_condition(case, &condition.text, &message, need.at, "it waits for this", out);
}

/// A pipeline that follows another one, and publishes however that ended, or before it has.
fn after_another(case: &Case<'_>, out: &mut Findings) {
    let Some(default) = case.facts.git.default_branch.known() else { return };
    let failed = Occasion::new(OccasionKind::Push, Some(default)).ending("failure");
    let Some((played, trigger)) = case.as_follower(&failed) else { return };
    let Some(published) = case.published().find(|published| case.happens(published, &played) == Answer::Yes) else {
        return;
    };
    // A kind that is none starts nothing, and is told of as that.
    let kinds = case.pipeline.format.grammar().kinds(&trigger.name.value);
    if !trigger.types.is_empty() && !trigger.types.iter().any(|kind| kinds.contains(&kind.value.as_str())) {
        return;
    }
    let ended = trigger.types.is_empty() || trigger.types.iter().any(|kind| kind.value == "completed");
    let names: Vec<&str> = trigger.after.iter().map(|name| name.value.as_str()).collect();
    let (others, job) = (listed(&names), case.job_name(published.job));
    let place = trigger.types.first().map_or(trigger.name.at, |kind| kind.at);
    let (message, todo) = match ended {
        true => (
            format!("`{job}` publishes even when {others} has failed: this file starts at its end, however that was"),
            "let the job ask how that ended",
        ),
        false => (
            format!("`{job}` publishes before {others} has ended: this file starts when it begins"),
            "let this file start when that has ended, and let the job ask how",
        ),
    };
    let first = case.pipeline.jobs[published.job].id.at;
    out.add(place, message)
        .witness(at(first), "nothing here asks how it ended")
        .witness(at(published.effect.at), "this publishes")
        .mend(Mend::by_hand(match &case.pipeline.customs.followed_success {
            Some(condition) => format!("{todo}: {condition}"),
            None => todo.to_owned(),
        }));
}

/// A step that publishes, and is said to run only when something before it has failed.
fn only_after_failure(case: &Case<'_>, published: &Published<'_>, out: &mut Findings) {
    let step = &case.pipeline.jobs[published.job].steps[published.step];
    let Some(place) = step.after_at.filter(|_| step.after == Outcome::Failure) else { return };
    let name = step.name.as_ref().map_or("this step", |name| name.value.as_str());
    out.add(place, format!("`{name}` publishes only when something before it has failed"))
        .witness(at(published.effect.at), "this publishes")
        .mend(pen::write(case, &Ask::OnlyAfterSuccess));
}

/// The job, or the rule by which it runs, says that it runs whatever happened before.
fn always_chosen(case: &Case<'_>, published: &Published<'_>, out: &mut Findings) {
    let job = &case.pipeline.jobs[published.job];
    let Some(before) = case.pipeline.upstream(published.job).first().copied() else { return };
    let own = job
        .when
        .then_at
        .filter(|_| job.when.then == Then::Always && job.when.choices.iter().all(|choice| choice.then == Then::Always));
    for choice in job.when.choices.iter().filter(|choice| choice.then == Then::OnFailure) {
        let other = &case.pipeline.jobs[before].id;
        let place = choice.then_at.unwrap_or(choice.at);
        out.add(place, format!("`{}` publishes only when something before it has failed", job.id.value))
            .witness(at(other.at), format!("it comes after `{}`", other.value))
            .mend(pen::write(case, &Ask::OnlyAfterSuccess));
    }
    let chosen = job.when.choices.iter().filter(|choice| choice.then == Then::Always).filter_map(|choice| choice.then_at);
    for place in own.into_iter().chain(chosen) {
        let other = &case.pipeline.jobs[before].id;
        out.add(place, format!("`{}` publishes even when what it waits for has failed", job.id.value))
            .witness(at(other.at), format!("it comes after `{}`", other.value))
            .mend(pen::write(case, &Ask::OnlyAfterSuccess));
    }
}

fn speak_of_condition(case: &Case<'_>, text: &Text, message: &str, place: Place, because: &str, out: &mut Findings) {
    out.add(text.inner(), message).witness(at(place), because).mend(pen::write(case, &Ask::OnlyAfterSuccess));
}

/// All builds and tests by job and step, with whether each is a test.
fn makers<'c>(case: &'c Case<'_>) -> Vec<(usize, usize, &'c EffectAt, bool)> {
    let effects = case.all_effects().map(|(job, step, effect)| (job, step, effect, is_test(&effect.effect)));
    effects.filter(|(.., effect, test)| *test || makes_the_site(&effect.effect)).collect()
}

/// A build or a test whose failure counts for nothing, on the way to a publish.
fn passed_over(case: &Case<'_>, makers: &[(usize, usize, &EffectAt, bool)], published: &Published<'_>, out: &mut Findings) {
    let mut tested = false;
    for (job, number, effect, test) in makers.iter().copied() {
        let own = job == published.job;
        let earlier = if own { number < published.step } else { case.pipeline.waits_for(published.job, job) };
        if !earlier || (test && tested) {
            continue;
        }
        let step = &case.pipeline.jobs[job].steps[number];
        let is_true = |text: &&Text| text.value.trim() == "true";
        let message = if test {
            "the tests may fail here without anybody noticing, and the publish goes on"
        } else {
            "the build may fail here without anybody noticing, and the publish goes on"
        };
        let of_job = case.pipeline.jobs[job].may_fail.as_deref().filter(is_true);
        let text = step.may_fail.as_deref().filter(is_true).or(of_job);
        let finding = match text {
            Some(text) => out.add(text.inner(), message),
            None if effect.forgiven => out.add(whole_line(case, effect.at), message),
            None => {
                // Other tests hold the publish up.
                tested |= test;
                continue;
            }
        };
        finding.witness(at(published.effect.at), "this publishes whatever there is then");
        finding.mend(match text {
            // Somebody has decided this once.
            Some(text) if case.sources.slice(text.inner()) == "true" => {
                Mend::likely("write false", [Edit::replace(text.inner(), "false")])
            }
            Some(text) => Mend::by_hand(format!("remove `{}`, so that a failure ends it here", case.sources.slice(text.inner()))),
            None => Mend::by_hand("remove what stands after ||, so that the job ends here"),
        });
        if test {
            finding.severity(Severity::Warning);
        }
        return;
    }
}

fn is_test(effect: &Effect) -> bool {
    matches!(effect, Effect::Test { tool } if crate::knowledge::commands().kind_of(tool) == Some("test"))
}

/// From the command to the end of its line, so that what passes the failure over is shown too.
fn whole_line(case: &Case<'_>, place: Place) -> Place {
    let source = case.sources.get(place.file);
    let rest = &source.text[place.span.start as usize..];
    let length = rest.find(['\n', '\r']).unwrap_or(rest.len());
    let mut wide = place;
    wide.span.end = place.span.end.max(place.span.start + u32::try_from(rest[..length].trim_end().len()).unwrap_or(0));
    wide
}

fn makes_the_site(effect: &Effect) -> bool {
    matches!(effect, Effect::Build { .. })
}

/// Whether a condition is true when something before has failed; what it asks of the event itself is taken to hold.
fn survives_failure(condition: &Condition) -> bool {
    let Some(expression) = condition.expression() else { return false };
    let mut names_status = false;
    let (mut failure, mut success) = (false, false);
    let mut unknown = false;
    expression.walk(&mut |part: &Expr| match &part.kind {
        ExprKind::Call(name, _) => {
            let name = name.to_ascii_lowercase();
            names_status |= matches!(name.as_str(), "always" | "cancelled");
            failure |= name == "failure";
            success |= name == "success";
        }
        ExprKind::Name(name) => unknown |= !matches!(name.as_str(), "github" | "needs" | "env" | "matrix"),
        ExprKind::Property(_, name, _) => unknown |= name == "outputs",
        _ => {}
    });
    // What asks for a failure alone is meant for failures.
    if !(names_status || (failure && success)) || unknown {
        return false;
    }
    let result = evaluate(
        expression,
        Equality::Loose,
        &|path| match path {
            ["needs", _, "result"] => Value::Text("failure".into()),
            _ => Value::Unknown,
        },
        &|name| match name.to_ascii_lowercase().as_str() {
            "always" | "failure" => Some(Value::Bool(true)),
            "success" | "cancelled" => Some(Value::Bool(false)),
            _ => None,
        },
    );
    result.truth() != Some(false)
}
