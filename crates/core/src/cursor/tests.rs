//! What is known of places, on texts alone.

use super::{definitions, hover, offers, outline, references, renamed, timed_jobs, told_events};
use crate::facts::{Fact, Facts, FileList, Found, GitFacts, Origin, Package};
use crate::formats::{Prepared, named, prepare_alone};
use crate::project::Project;
use crate::text::{FileId, SourceFile, Sources};

/// A repository of one pipeline file, `¦` in which is a place.
struct House {
    sources: Sources,
    prepared: Vec<Prepared>,
    facts: Facts,
    offset: usize,
}

impl House {
    fn new(format: &str, path: &str, text: &str) -> Self {
        let offset = text.find('¦').unwrap_or(0);
        let mut sources = Sources::default();
        let file = sources.add(SourceFile::new(path, text.replacen('¦', "", 1)));
        let package = sources.add(SourceFile::new(
            "package.json",
            "{\"scripts\": {\"build\": \"vite build\", \"tide\": \"x\"}, \"devDependencies\": {\"vite\": \"^7\"}}",
        ));
        let format = named(format).expect("a format");
        let prepared = prepare_alone(file, sources.get(file), format);
        let git = GitFacts {
            branches: Fact::Known(vec!["main".into(), "winter".into()], Origin::Git),
            default_branch: Fact::Known("main".into(), Origin::Git),
            tags: Fact::Known(vec!["v1".into()], Origin::Git),
            ..GitFacts::default()
        };
        let list = FileList::new(vec![path.to_owned(), "package.json".to_owned(), "quay/deep/a.txt".to_owned()], Vec::new());
        let found = Found { git, files: Fact::Known(list, Origin::Files), companions: vec![package], ..Found::default() };
        let facts = Facts::from_found(found, &sources);
        assert!(facts.packages.values().all(|package: &Package| package.scripts.is_some()));
        Self { sources, prepared, facts, offset }
    }

    fn workflow(text: &str) -> Self {
        Self::new("workflow", ".github/workflows/a.yml", text)
    }

    fn project(&self) -> Project<'_> {
        Project::new(&self.prepared, &self.facts, &self.sources, None)
    }

    /// What may be written at the place.
    fn offered(&self) -> Vec<String> {
        offers(&self.project(), FileId(0), self.offset).list.into_iter().map(|offer| offer.label).collect()
    }

    fn words(&self) -> String {
        hover(&self.project(), FileId(0), self.offset).map(|hover| hover.lines.join(" ")).unwrap_or_default()
    }

    fn slices(&self, places: Vec<crate::text::Place>) -> Vec<(u32, &str)> {
        places.into_iter().map(|at| (self.sources.get(at.file).position(at.span.start).line, self.sources.slice(at))).collect()
    }
}

const SITE: &str = "on:\n  push:\n    branches: [main, 'v*']\njobs:\n  build:\n    runs-on: ubuntu-latest\n    outputs: {page: '${{ steps.put.outputs.page }}'}\n    steps:\n      - uses: actions/checkout@v5\n      - uses: actions/setup-node@v5\n        with:\n          cache: npm\n      - id: put\n        run: |\n          npm run tide\n          echo \"page=x\" >> \"$GITHUB_OUTPUT\"\n      - uses: actions/upload-artifact@v4\n        with: {name: site, path: dist}\n  publish:\n    needs: [build]\n    if: needs.build.outputs.page == 'x'\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/download-artifact@v5\n        with: {name: site}\n      - run: echo ${{ secrets.PIER }}\n";

/// The text with a place put before some words.
fn at(words: &str) -> House {
    House::workflow(&SITE.replacen(words, &format!("¦{words}"), 1))
}

#[test]
fn words_for_what_stands_there() {
    assert!(at("build:").words().contains("runs on a push to main"), "{}", at("build:").words());
    assert!(at("build]").words().starts_with("**Job** `build`"), "{}", at("build]").words());
    assert!(at("v*'").words().contains("fits none"), "{}", at("v*'").words());
    assert!(at("npm run tide").words().contains("**Script** `tide` of `package.json`"), "{}", at("npm run tide").words());
    assert!(at("site, path").words().contains("handed on by `build`, taken by `publish`"), "{}", at("site, path").words());
    assert!(at("secrets.PIER").words().contains("a secret that the forge keeps"), "{}", at("secrets.PIER").words());
    assert_eq!(at("runs-on").words(), "`runs-on`: the machine that the job runs on");
}

#[test]
fn places_lead_to_each_other() {
    let house = at("build]");
    assert_eq!(house.slices(definitions(&house.project(), FileId(0), house.offset)), [(5, "build")]);
    let all = references(&house.project(), FileId(0), house.offset, true);
    assert_eq!(house.slices(all), [(5, "build"), (20, "build"), (21, "build")]);
    let house = at("npm run tide");
    assert_eq!(house.slices(definitions(&house.project(), FileId(0), house.offset)), [(1, "\"tide\"")]);
    let house = at("put.outputs");
    assert_eq!(house.slices(definitions(&house.project(), FileId(0), house.offset)), [(13, "put")]);
    let house = at("site}");
    assert_eq!(house.slices(definitions(&house.project(), FileId(0), house.offset)), [(18, "site")]);
}

#[test]
fn a_folder_leads_to_where_it_is_set() {
    let text = SITE.replace("npm run tide", "npm run build").replacen("path: dist", "path: ¦dist", 1);
    let house = House::workflow(&text);
    assert!(house.words().starts_with("**Folder** `dist`: vite makes it"), "{}", house.words());
    let anchors = "on: push\njobs:\n  a:\n    runs-on: &m ubuntu-latest\n    steps: [{run: ls}]\n  b:\n    runs-on: ¦*m\n    steps: [{run: ls}]\n";
    let house = House::workflow(anchors);
    assert_eq!(house.slices(definitions(&house.project(), FileId(0), house.offset)), [(4, "ubuntu-latest")]);
}

#[test]
fn a_rename_takes_all_or_nothing() {
    let house = at("build]");
    let (_, places) = renamed(&house.project(), FileId(0), house.offset).expect("a job");
    assert_eq!(house.slices(places).len(), 3);
    // A word of the same letters whose meaning is not known may well mean the job.
    let text = SITE.replacen("build:", "¦build:", 1).replace("path: dist}", "path: dist, from: build}");
    let house = House::workflow(&text);
    assert_eq!(renamed(&house.project(), FileId(0), house.offset), None);
    let house = at("ubuntu-latest");
    assert_eq!(renamed(&house.project(), FileId(0), house.offset), None);
}

#[test]
fn what_may_be_written_is_what_is_true_here() {
    let with = |from: &str, to: &str| House::workflow(&SITE.replacen(from, to, 1)).offered();
    assert_eq!(with("needs: [build]", "needs: [¦"), ["build"]);
    assert_eq!(with("needs: [build]", "needs: ¦"), ["build"]);
    assert_eq!(with("[main, 'v*']", "[¦"), ["main", "winter"]);
    assert_eq!(with("npm run tide", "npm run ¦"), ["build", "tide"]);
    assert_eq!(with("npm run tide", "ls ¦"), ["quay", "quay/deep"]);
    assert!(with("cache: npm", "c¦").contains(&"cache".to_owned()), "{:?}", with("cache: npm", "c¦"));
    assert!(!with("          cache: npm", "          cache: npm\n          ¦").contains(&"cache".to_owned()));
    assert_eq!(with("${{ steps.put.outputs.page }}", "${{ steps.¦ }}"), ["put"]);
    assert_eq!(with("${{ steps.put.outputs.page }}", "${{ steps.put.outputs.¦ }}"), ["page"]);
    assert_eq!(with("needs.build.outputs.page == 'x'", "needs.build.outputs.¦"), ["page"]);
    assert_eq!(with("with: {name: site}", "with:\n          name: ¦"), ["site"]);
    assert_eq!(with("          cache: npm", "          cache: ¦").len(), 0);
    assert_eq!(with("secrets.PIER", "secrets.¦"), ["GITHUB_TOKEN"]);
    assert_eq!(
        with("    runs-on: ubuntu-latest\n", "    runs-on: ubuntu-latest\n    permissions: {}\n    ¦\n")
            .first()
            .map(String::as_str),
        Some("concurrency")
    );
    assert_eq!(with("on:\n", "# dulk: accept ¦\non:\n").len(), crate::rules::all().count());
    assert_eq!(with("on:\n", "# tide: accept ¦\non:\n").len(), 0);
}

#[test]
fn other_formats_speak_too() {
    let text = "stages: [bake, show]\nbake:\n  stage: bake\n  script: [npm run tide]\n  artifacts: {paths: [dist]}\npages:\n  stage: show\n  needs: [bake]\n  script: [ls]\n";
    let with = |from: &str, to: &str| House::new("gitlab", ".gitlab-ci.yml", &text.replacen(from, to, 1));
    assert_eq!(with("stage: show", "stage: ¦").offered(), ["bake", "show"]);
    assert_eq!(with("needs: [bake]", "needs: [¦").offered(), ["bake"]);
    assert!(with("stage: show", "st¦").offered().contains(&"stage".to_owned()));
    assert!(with("script: [ls]", "script: [ls, $CI_COMMIT_¦]").offered().contains(&"CI_COMMIT_BRANCH".to_owned()));
    let house = with("needs: [bake]", "needs: [¦bake]");
    assert_eq!(house.slices(definitions(&house.project(), FileId(0), house.offset)), [(2, "bake")]);
    // `bake` is the name of a stage as well, and stays that.
    let (_, places) = renamed(&house.project(), FileId(0), house.offset).expect("a job");
    assert_eq!(house.slices(places), [(2, "bake"), (8, "bake")]);
}

#[test]
fn the_outline_holds_jobs_with_their_steps() {
    let house = at("build:");
    let all = outline(&house.project(), FileId(0));
    let names: Vec<(&str, usize)> = all.iter().map(|one| (one.name.as_str(), one.inside.len())).collect();
    assert_eq!(names, [("push", 0), ("build", 4), ("publish", 2)]);
    let inside = |one: &super::Outlined| one.whole.start <= one.name_at.start && one.name_at.end <= one.whole.end;
    assert!(all.iter().all(|one| inside(one) && one.inside.iter().all(inside)));
    let jobs = timed_jobs(&house.project(), FileId(0));
    assert_eq!(jobs[0].runs.told(), "runs on a push to main");
    let (runs, events) = told_events(&house.project(), FileId(0), "build").expect("a job");
    assert_eq!((&runs, events.len()), (&jobs[0].runs, runs.events));
    assert!(events.iter().any(|event| event.contains("does not run")), "{events:?}");
}
