//! A pipeline for a repository that has none.

use std::fs;

use crate::house::House;

const PACKAGE: &str = r#"{"scripts": {"lint": "eslint src", "test": "vitest run", "build": "vite build"},
  "devDependencies": {"vite": "7.1.0", "eslint": "9.9.0", "vitest": "3.0.0"}}"#;

/// A site built with vite, whose forge is one that the catalog knows.
fn site(more: &[(&str, &str)]) -> House {
    let own = [("package.json", PACKAGE), ("package-lock.json", "{}"), (".nvmrc", "24\n"), ("index.html", "<h1>Sailings</h1>")];
    House::with_git(&[&own[..], more].concat()).clone_of("https://github.com/tarnsay/timetable.git")
}

#[test]
fn where_nothing_is_found_it_is_told_what_is_seen_and_a_draft_offered() {
    let ran = site(&[("netlify.toml", "[build]\npublish = \"dist\"\n")]).dulk(&[]);
    assert_eq!(ran.code, Some(0), "{}", ran.err);
    for said in
        ["No pipeline file found here", "generator", "vite", "published folder for netlify", "dulk draft shows a pipeline for it"]
    {
        assert!(ran.out.contains(said), "{said}: {}", ran.out);
    }
    assert!(ran.out.contains(".github/workflows/site.yml, to Netlify"), "{}", ran.out);
    let empty = House::with_git(&[("notes.txt", "")]).dulk(&[]);
    assert!(empty.out.contains("Nothing here tells what makes the site"), "{}", empty.out);
    // Whoever names a folder asks for nothing else.
    assert!(!site(&[("docs/a.md", "")]).dulk(&["check", "docs"]).out.contains("dulk draft"));
}

#[test]
fn the_file_goes_to_standard_output_and_what_is_said_of_it_elsewhere() {
    let house = site(&[]);
    let ran = house.dulk(&["draft"]);
    assert_eq!(ran.code, Some(0), "{}", ran.err);
    assert!(ran.out.starts_with("# Builds the site with vite and puts it on the forge's pages."), "{}", ran.out);
    for line in ["node-version-file: .nvmrc", "cache: npm", "run: npm ci", "run: npm run lint", "run: npm run test"] {
        assert!(ran.out.contains(line), "{line}: {}", ran.out);
    }
    // The forge serves such a repository below its name.
    assert!(ran.out.contains("run: npm run build -- --base=/timetable/"), "{}", ran.out);
    assert!(ran.err.contains("this belongs into .github/workflows/site.yml") && ran.err.contains("on github.com"), "{}", ran.err);
    assert!(!house.path().join(".github").exists());
}

#[test]
fn it_is_put_in_its_place_once_and_a_check_finds_nothing_in_it() {
    let house = site(&[]);
    let ran = house.dulk(&["draft", "--write"]);
    assert_eq!((ran.code, ran.err.as_str()), (Some(0), ""), "{}", ran.out);
    assert!(ran.out.contains(".github/workflows/site.yml is written."), "{}", ran.out);
    let checked = house.dulk(&["check", "--fail-on", "advice"]);
    assert_eq!(checked.code, Some(0), "{}", checked.out);
    fs::write(house.path().join(".github/workflows/site.yml"), "mine").expect("a file");
    let again = house.dulk(&["draft", "--write"]);
    assert_eq!(again.code, Some(2));
    assert!(again.err.contains("site.yml cannot be written: it is there already"), "{}", again.err);
    assert_eq!(fs::read_to_string(house.path().join(".github/workflows/site.yml")).expect("a file"), "mine");
}

#[test]
fn format_and_host_are_taken_by_their_names_and_the_format_by_a_path() {
    let house = site(&[]);
    let gitlab = house.dulk(&["draft", "--for", "gitlab", "--to", "ssh"]);
    assert!(gitlab.out.contains("resource_group: publish") && gitlab.out.contains("type File:"), "{}", gitlab.out);
    let elsewhere = house.dulk(&["draft", "--for", ".forgejo/workflows/site.yaml", "--write"]);
    assert_eq!(elsewhere.code, Some(0), "{}", elsewhere.err);
    assert!(house.path().join(".forgejo/workflows/site.yaml").exists());
    // A host that one format alone reaches brings that one along.
    assert!(house.dulk(&["draft", "--to", "amplify"]).out.contains("baseDirectory: dist"));
    for (args, said) in [
        (["--for", "make"], "no format is called make"),
        (["--to", "the-moon"], "the-moon"),
        (["--for", "docs/site.yml"], "no forge reads a pipeline at such a path"),
    ] {
        let ran = house.dulk(&[&["draft"][..], &args].concat());
        assert_eq!(ran.code, Some(2), "{args:?}");
        assert!(ran.err.contains(said), "{args:?}: {}", ran.err);
    }
    let none = house.dulk(&["draft", "--for", "amplify", "--to", "netlify"]);
    assert_eq!(none.code, Some(2));
    assert!(none.err.contains("no draft goes from amplify.yml to Netlify"), "{}", none.err);
}

#[test]
fn what_is_not_known_is_asked_for_and_what_cannot_be_served_is_refused() {
    let bare = House::with_git(&[("package.json", r#"{"scripts": {"build": "make-all"}}"#)]);
    let ran = bare.dulk(&["draft"]);
    assert_eq!(ran.code, Some(0), "{}", ran.err);
    for asked in ["There is no lockfile", "which version of node", "Which folder the build writes is not known"] {
        assert!(ran.out.contains(asked), "{asked}: {}", ran.out);
    }
    let server = r#"{"scripts": {"build": "next build"}, "dependencies": {"next": "15.0.0"}}"#;
    let ran = House::with_git(&[("package.json", server), ("package-lock.json", "{}")]).dulk(&["draft", "--to", "s3"]);
    assert_eq!((ran.code, ran.out.as_str()), (Some(2), ""));
    assert!(ran.err.contains("next makes a server here"), "{}", ran.err);
}

#[test]
fn what_the_repository_lacks_is_said_of_the_draft_at_once() {
    let house = site(&[("dulk.toml", "[forge]\nsecrets = []\nvariables = []\n")]);
    let ran = house.dulk(&["draft", "--to", "netlify"]);
    assert_eq!(ran.code, Some(0), "{}", ran.err);
    assert!(ran.err.contains("NETLIFY_AUTH_TOKEN") && ran.err.contains("secret.undeclared"), "{}", ran.err);
}

#[test]
fn names_with_odd_characters_stay_what_they_are_in_every_format() {
    let odd = "it's a \"site\"; $(touch gone) `touch gone`";
    let in_folder = |name: &str| format!("{odd}/{name}");
    let (package, lock) = (in_folder("package.json"), in_folder("package-lock.json"));
    let house = House::with_git(&[(package.as_str(), PACKAGE), (lock.as_str(), "{}")]);
    for format in ["workflow", "gitlab", "travis", "buildspec", "amplify", "cloudbuild", "jenkins", "buddy", "codepipeline"] {
        let ran = house.dulk(&["draft", "--for", format, "--write"]);
        assert_eq!(ran.code, Some(0), "{format}: {}", ran.err);
        assert!(!ran.err.contains("form."), "{format}: {}", ran.err);
    }
    let hostile = r#"{"packageManager": "pnpm@1; touch gone", "scripts": {"site; touch gone": "vite build"}, "devDependencies": {"vite": "7"}}"#;
    let ran = House::with_git(&[("package.json", hostile), ("pnpm-lock.yaml", "lockfileVersion: '9.0'")])
        .dulk(&["draft", "--for", "gitlab"]);
    assert!(ran.out.contains("pnpm run 'site; touch gone'") && ran.out.contains("pnpm@10"), "{}{}", ran.out, ran.err);
    assert_eq!(ran.out.matches("touch gone").count(), 1, "{}", ran.out);
    for broken in ["bro\u{7}ken/package.json", "tur\u{202e}ned/package.json"] {
        let ran = House::with_git(&[(broken, PACKAGE)]).dulk(&["draft"]);
        assert_eq!((ran.code, ran.out.as_str()), (Some(2), ""), "{}", ran.err);
        assert!(ran.err.contains("control character") && !ran.err.contains(['\u{7}', '\u{202e}']), "{}", ran.err);
    }
}

#[cfg(unix)]
#[test]
fn nothing_is_written_through_a_link_that_leads_out() {
    let (house, out) = (site(&[]), tempfile::tempdir().expect("a folder"));
    std::os::unix::fs::symlink(out.path(), house.path().join(".github")).expect("a link");
    let ran = house.dulk(&["draft", "--write"]);
    assert_eq!(ran.code, Some(2));
    assert!(ran.err.contains("leads out of the repository"), "{}", ran.err);
    assert_eq!(fs::read_dir(out.path()).expect("a folder").count(), 0);
}

#[test]
fn the_demo_shows_the_way_from_none_to_a_right_one() {
    let ran = House::new(&[]).dulk(&["demo", "--draft"]);
    assert_eq!((ran.code, ran.err.as_str()), (Some(0), ""));
    assert!(ran.out.contains("is written") && ran.out.contains("Nothing wrong found in 1 pipeline file."), "{}", ran.out);
    insta::assert_snapshot!(ran.out);
}
