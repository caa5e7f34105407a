//! A site of files where a server is to run.

use super::{publish_of, serving_of};
use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.no-server",
    severity: Severity::Error,
    title: "A server is to run, and the build makes files",
    why: "A host that runs a server looks for the program in what is published. A folder of pages holds none: the publish fails, or every \
          address answers with an error.",
    needs: &[Need::Files],
    bad: &[r"
== git
main default
== files
index.html
== amplify.yml
version: 1
frontend:
  phases:
    build:
      commands:
        - ‹npx vite build›
  artifacts:
    baseDirectory: dist
    files: ['**/*']
== infra/app.yml
Resources:
  Timetable:
    Type: AWS::Amplify::App
    Properties:
      Name: timetable
      Platform: «WEB_COMPUTE»
  Main:
    Type: AWS::Amplify::Branch
    Properties: {AppId: !GetAtt Timetable.AppId, BranchName: main}
"],
    good: &[r"
== git
main default
== files
index.html
== amplify.yml
version: 1
frontend:
  phases:
    build:
      commands:
        - npx vite build
  artifacts:
    baseDirectory: dist
    files: ['**/*']
== infra/app.yml
Resources:
  Timetable:
    Type: AWS::Amplify::App
    Properties:
      Name: timetable
      Platform: WEB
  Main:
    Type: AWS::Amplify::Branch
    Properties: {AppId: !GetAtt Timetable.AppId, BranchName: main}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let builds: Vec<_> = case
        .all_effects()
        .filter_map(|(job, _, effect)| match &effect.effect {
            Effect::Build { generator, output: Some(output), server, .. } => Some((job, effect, generator, output, *server)),
            _ => None,
        })
        .collect();
    // Another build may make the server.
    if builds.iter().any(|(.., server)| *server != Some(false)) {
        return;
    }
    for (job, build, generator, output, _) in builds {
        let Some(published) = publish_of(case, job) else { continue };
        let serving = serving_of(&published).filter(|serving| !serving.files_only);
        let is_it = published.folder.and_then(|folder| folder.folder.as_ref()) == Some(output);
        let Some(serving) = serving.filter(|_| is_it) else { continue };
        out.add(
            serving.at,
            format!("a server is to run here, and {generator} writes a folder of files: there is nothing to run"),
        )
        .witness(at(build.at), format!("{generator} writes the site into `{output}` here"))
        .mend(Mend::likely(format!("write {}", serving.instead), [Edit::replace(serving.at, serving.instead)]));
        return;
    }
}
