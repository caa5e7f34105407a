//! Every draft that can be asked for is one in which a check finds nothing at all.

use std::fs;

use dulk_core::draft::{Refused, draft, hosts_of, usual_path};
use dulk_core::effects::Effect;
use dulk_core::finding::Finding;
use dulk_core::formats;
use dulk_core::knowledge::{Date, Generator, WantedVariable, generators, hosts};
use dulk_core::rehearsal::{Answer, parse_occasion};
use dulk_gather::{Unsaved, demo_repository};
use dulk_snapshot::Snapshot;
use rayon::prelude::*;

const TODAY: &str = "2026-11-25";

/// A repository's files by their paths.
type Files = Vec<(String, String)>;

fn files(all: &[(&str, &str)]) -> Files {
    all.iter().map(|(path, text)| ((*path).to_owned(), (*text).to_owned())).collect()
}

fn packages(dependency: &str, build: &str) -> Files {
    let package = format!(
        "{{\"name\": \"timetable\", \"scripts\": {{\"lint\": \"eslint src\", \"build\": {build:?}}}, \"devDependencies\": {{{dependency:?}: \"1.0.0\", \"eslint\": \
         \"9.0.0\"}}}}"
    );
    files(&[("package.json", &package), ("package-lock.json", "{\"lockfileVersion\": 3}"), ("src/main.js", "")])
}

/// A repository that gives a generator away; nothing for one that no file gives away.
fn made_with(generator: &Generator) -> Option<Files> {
    let telling = generator.telling_configs.first().or(generator.configs.first().filter(|_| generator.telling));
    let mut found = match (generator.packages.first(), generator.gems.first(), generator.python.first()) {
        (Some(package), ..) => packages(package, generator.commands[0]),
        (_, Some(gem), _) => files(&[("Gemfile", &format!("gem '{gem}'\n")), ("Gemfile.lock", "GEM\n")]),
        (.., Some(package)) => files(&[("requirements.txt", &format!("{package}==1.0.0\n"))]),
        _ if telling.is_some() || !generator.telling_suffixes.is_empty() => Vec::new(),
        _ => return generator.csproj_sdk.map(|sdk| files(&[("Timetable.csproj", &format!("<Project Sdk=\"{sdk}\" />"))])),
    };
    let text = |path: &str| if path.ends_with(".json") { "{}".to_owned() } else { String::new() };
    found.extend(telling.map(|path| ((*path).to_owned(), text(path))));
    found.extend(generator.telling_suffixes.first().map(|end| (format!("timetable{end}"), String::new())));
    if let Some(set) = &generator.server_unless {
        found.push((generator.configs[0].to_owned(), format!("module.exports = {{ {}: {:?} }};", set.setting, set.value)));
    }
    Some(found)
}

fn snapshot_of(files: &Files) -> (tempfile::TempDir, Snapshot) {
    let dir = tempfile::tempdir().expect("a temporary folder");
    for (path, text) in files {
        let path = dir.path().join(path);
        fs::create_dir_all(path.parent().expect("a parent")).expect("a folder");
        fs::write(path, text).expect("a file");
    }
    let tracked: Vec<(&str, &str)> = files.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect();
    demo_repository(dir.path(), &tracked).expect("a repository");
    let snapshot = Snapshot::of_disk(dir.path(), &[], None).expect("it is read");
    (dir, snapshot)
}

/// The paths that drafts are asked for at: each format's own, and the folders of forges that share one.
fn paths() -> Vec<&'static str> {
    let own = formats::all().iter().map(|format| usual_path(*format)).filter(|path| !path.is_empty());
    own.chain([".forgejo/workflows/site.yml"]).collect()
}

/// Whether a push to the main branch puts the built folder online, and one to another branch or a pull request does not.
fn publishes(snapshot: &Snapshot, path: &str) -> Result<(), String> {
    let project = snapshot.project();
    let of_draft = |index: &usize| snapshot.sources().get(project.prepared[*index].pipeline.file).path == path;
    let index = (0..project.prepared.len()).find(of_draft).ok_or("it is not read as a pipeline")?;
    let case = project.case(index);
    let publishing: Vec<(usize, usize)> = (0..case.pipeline.jobs.len())
        .flat_map(|job| case.effects.of_job(job).map(move |(step, effect)| (job, step, effect)))
        .filter(|(.., effect)| matches!(effect.effect, Effect::Publish { .. }))
        .map(|(job, step, _)| (job, step))
        .collect();
    if publishing.is_empty() && !path.starts_with("amplify") {
        return Err("nothing in it is known to publish".into());
    }
    for (event, wanted) in [("push:main", true), ("push:winter-plan", false), ("pull:main", false)] {
        let occasion = parse_occasion(event, &snapshot.repository().facts).expect("an event");
        let played = project.rehearse_one(index, &occasion);
        let runs = |(job, step): &(usize, usize)| {
            [played.starts.answer, played.jobs[*job].answer, played.steps[*job][*step]].into_iter().min()
        };
        for one in &publishing {
            match runs(one) {
                Some(Answer::Yes) if !wanted => return Err(format!("{event} puts it online")),
                Some(Answer::No) if wanted => return Err(format!("{event} does not put it online")),
                _ => {}
            }
        }
    }
    Ok(())
}

/// What a check says of every draft for a repository, and how many drafts there are; with `only`, for those hosts.
fn said_of(name: &str, files: &Files, only: &[&str]) -> (usize, Vec<String>) {
    let (dir, snapshot) = snapshot_of(files);
    let (facts, sources) = (&snapshot.repository().facts, snapshot.sources());
    let (mut looked_at, mut said) = (0, Vec::new());
    for path in paths() {
        let format = *formats::all().iter().find(|format| usual_path(**format) == path).unwrap_or(&formats::all()[0]);
        for host in hosts_of(format, path).into_iter().filter(|host| only.is_empty() || only.contains(&host.id)) {
            let drafted = match draft(facts, sources, (format, path), host) {
                Ok(drafted) => drafted,
                Err(Refused(_)) if host.needs_package => continue,
                Err(why) => {
                    said.push(format!("{name}, {path}, {}: refused, {why}", host.id));
                    continue;
                }
            };
            looked_at += 1;
            let mut more = Unsaved::from([(drafted.path.clone(), drafted.text.clone())]);
            more.extend(host.takes_file.map(|file| (file.to_owned(), format!("{{\"hosting\": {{\"public\": {:?}}}}}", "dist"))));
            let with_it = Snapshot::of_texts(dir.path(), &[], more, Date::parse(TODAY)).expect("it is read");
            if let Err(why) = publishes(&with_it, &drafted.path) {
                said.push(format!("{name}, {path}, {}: {why}", host.id));
            }
            // Where only the configuration of the generator can say a path, the draft asks for it.
            let is_asked =
                |finding: &Finding| finding.rule == "site.base-path" && drafted.text.contains("The host serves the site below /");
            for finding in with_it.check_once().into_iter().flat_map(|file| file.findings).filter(|one| !is_asked(one)) {
                let source = with_it.sources().get(finding.at.file);
                let line = source.range(finding.at.span).start.line;
                said.push(format!("{name}, {}:{line}, {}: {} {}", source.path, host.id, finding.rule, finding.message));
            }
        }
    }
    (looked_at, said)
}

fn clean(all: &[(String, Files)], only: &[&str]) -> usize {
    let results: Vec<_> = all.par_iter().map(|(name, files)| said_of(name, files, only)).collect();
    let said: Vec<&String> = results.iter().flat_map(|(_, said)| said).collect();
    let told = said.iter().take(40).map(|line| line.as_str()).collect::<Vec<_>>().join("\n");
    assert!(said.is_empty(), "{} of the drafts are not clean:\n{told}", said.len());
    results.iter().map(|(looked_at, _)| looked_at).sum()
}

#[test]
fn every_generator_format_and_host_gives_a_clean_draft() {
    let all: Vec<_> = generators().generator.iter().filter_map(|one| Some((one.id.to_owned(), made_with(one)?))).collect();
    assert!(all.len() > 30, "{} generators are given away by files", all.len());
    let looked_at = clean(&all, &[]);
    assert!(looked_at > all.len() * 50, "{looked_at} drafts were looked at");
}

#[test]
fn every_generator_that_is_served_below_a_path_gives_a_clean_draft() {
    let below = |mut files: Files| {
        files.push(("dulk.toml".to_owned(), "[site]\nbase = \"/timetable/\"\n".to_owned()));
        files
    };
    let all: Vec<_> = generators().generator.iter().filter_map(|one| Some((one.id.to_owned(), below(made_with(one)?)))).collect();
    assert!(clean(&all, &["pages", "ssh", "amplify", "branch", "s3", "gs"]) > all.len() * 10);
}

#[test]
fn every_manager_and_every_kind_of_repository_gives_a_clean_draft() {
    let vite = |more: &[(&str, &str)]| {
        let mut found = packages("vite", "vite build");
        found.retain(|(path, _)| more.iter().all(|(other, _)| other != path) && (path != "package-lock.json" || more.is_empty()));
        found.extend(files(more));
        found
    };
    let named = |manager: &str| {
        format!(
            "{{\"packageManager\": {manager:?}, \"scripts\": {{\"build\": \"vite build\", \"test\": \"vitest run\"}}, \"devDependencies\": {{\"vite\": \"7.0.0\"}}}}"
        )
    };
    let all: Vec<(String, Files)> = [
        ("npm", vite(&[])),
        ("pnpm", vite(&[("pnpm-lock.yaml", "lockfileVersion: '9.0'\n")])),
        ("pnpm named", vite(&[("pnpm-lock.yaml", "lockfileVersion: '9.0'\n"), ("package.json", &named("pnpm@10.4.0"))])),
        ("yarn", vite(&[("yarn.lock", "")])),
        (
            "yarn new",
            vite(&[("yarn.lock", ""), (".yarnrc.yml", "nodeLinker: node-modules\n"), ("package.json", &named("yarn@4.9.1"))]),
        ),
        ("bun", vite(&[("bun.lock", "{}")])),
        ("node named", vite(&[("package-lock.json", "{}"), (".nvmrc", "24\n")])),
        ("plain page", files(&[("index.html", "<h1>Quays</h1>"), ("style.css", ""), ("images/quay.svg", ""), ("README.md", "")])),
        ("plain folder", files(&[("public/index.html", "<h1>Quays</h1>"), ("README.md", "")])),
        ("in a folder", {
            let inner = packages("vite", "vite build");
            inner.into_iter().map(|(path, text)| (format!("site/{path}"), text)).collect()
        }),
        ("in a workspace", {
            let named = "{\"private\": true, \"packageManager\": \"pnpm@10.4.0\", \"engines\": {\"node\": \"24\"}}";
            let mut found = files(&[
                ("package.json", named),
                ("pnpm-lock.yaml", "lockfileVersion: '9.0'\n"),
                ("pnpm-workspace.yaml", "packages: ['apps/*']\n"),
            ]);
            let inner = packages("astro", "astro build").into_iter().filter(|(path, _)| path != "package-lock.json");
            found.extend(inner.map(|(path, text)| (format!("apps/site/{path}"), text)));
            found
        }),
        ("with a submodule", {
            let mut found = packages("astro", "astro build");
            found.extend(files(&[(
                ".gitmodules",
                "[submodule \"theme\"]\n\tpath = theme\n\turl = https://forge.example/tarnsay/theme.git\n",
            )]));
            found
        }),
        ("all declared", {
            let mut found = packages("vite", "vite build");
            let named = |all: Vec<&WantedVariable>| {
                let mut names: Vec<String> = all.iter().map(|one| format!("{:?}", one.name)).collect();
                names.sort_unstable();
                names.dedup();
                names.join(", ")
            };
            let secrets = named(hosts().host.iter().flat_map(|host| host.secrets).collect());
            let variables = named(hosts().host.iter().flat_map(|host| host.variables).collect());
            let more = "\"AWS_ROLE\", \"AWS_REGION\", \"IDENTITY_PROVIDER\", \"SERVICE_ACCOUNT\"";
            let settings = format!("[forge]\nsecrets = [{secrets}]\nvariables = [{variables}, {more}]\n");
            found.extend(files(&[("dulk.toml", &settings)]));
            found
        }),
        ("with history", files(&[("hugo.toml", "enableGitInfo = true\n"), ("content/quays.md", "")])),
    ]
    .into_iter()
    .map(|(name, files)| (name.to_owned(), files))
    .collect();
    assert!(clean(&all, &[]) > all.len() * 50);
}

#[test]
fn every_host_is_reached_by_some_format() {
    for host in hosts().host {
        let reached =
            formats::all().iter().any(|format| hosts_of(*format, usual_path(*format)).iter().any(|one| one.id == host.id));
        assert!(reached, "no format reaches {}", host.id);
    }
}
