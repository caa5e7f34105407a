use super::*;
use std::fs;

fn folder(files: &[(&str, &str)]) -> tempfile::TempDir {
    let dir = tempfile::tempdir().unwrap_or_else(|error| panic!("{error}"));
    for (name, text) in files {
        let path = dir.path().join(name);
        fs::create_dir_all(path.parent().unwrap_or(&path)).unwrap_or_else(|error| panic!("{error}"));
        fs::write(path, text).unwrap_or_else(|error| panic!("{error}"));
    }
    dir
}

fn read(dir: &tempfile::TempDir, paths: &[&str]) -> Repository {
    let paths: Vec<PathBuf> = paths.iter().map(PathBuf::from).collect();
    gather(dir.path(), &paths).unwrap_or_else(|error| panic!("{error}"))
}

fn names(repository: &Repository) -> Vec<&str> {
    repository.pipelines.iter().map(|pipeline| repository.sources.get(pipeline.file).path.as_str()).collect()
}

#[test]
fn a_folder_without_git_is_read_from_any_depth() {
    let dir = folder(&[
        (".github/workflows/a.yml", "on: push"),
        (".github/workflows/sub/b.yml", ""),
        ("package.json", "{}"),
        ("x/y/z", ""),
    ]);
    let repository = gather(&dir.path().join("x/y"), &[]).unwrap_or_else(|error| panic!("{error}"));
    assert_eq!(names(&repository), [".github/workflows/a.yml"]);
    assert!(repository.facts.git.branches.known().is_none());
    assert_eq!(repository.facts.has_file("x/y/z"), Some(true));
    assert!(repository.facts.packages.contains_key(""));
}

#[test]
fn paths_choose_files_and_folders() {
    let dir = folder(&[(".github/workflows/a.yml", ""), (".gitea/workflows/b.yaml", ""), ("other/c.yml", "")]);
    assert_eq!(names(&read(&dir, &["."])), [".gitea/workflows/b.yaml", ".github/workflows/a.yml"]);
    assert_eq!(names(&read(&dir, &[".gitea"])), [".gitea/workflows/b.yaml"]);
    assert_eq!(names(&read(&dir, &[".github/workflows/a.yml", ".github/workflows/a.yml"])), [".github/workflows/a.yml"]);
    let missing = gather(dir.path(), &[PathBuf::from("none.yml")]);
    assert!(matches!(missing, Err(GatherError::Path { .. })));
}

#[test]
fn what_cannot_be_read_is_told_and_the_rest_is_read() {
    let dir = folder(&[(".github/workflows/a.yml", "on: push"), (".github/workflows/folder.yml/x", ""), ("out.yml", "")]);
    let workflows = dir.path().join(".github/workflows");
    fs::write(workflows.join("latin.yml"), b"a: 1\nb: \xe9\n").unwrap_or_else(|error| panic!("{error}"));
    fs::write(workflows.join("large.yml"), vec![b' '; 5 << 20]).unwrap_or_else(|error| panic!("{error}"));
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink("loop.yml", workflows.join("loop.yml")).unwrap_or_else(|error| panic!("{error}"));
        std::os::unix::fs::symlink("/etc/hostname", workflows.join("out.yml")).unwrap_or_else(|error| panic!("{error}"));
        std::os::unix::fs::symlink("../../out.yml", workflows.join("inside.yml")).unwrap_or_else(|error| panic!("{error}"));
    }
    let repository = read(&dir, &[]);
    let refused: Vec<(&str, &str)> = repository
        .pipelines
        .iter()
        .filter_map(|pipeline| {
            Some((repository.sources.get(pipeline.file).path.rsplit('/').next()?, pipeline.refused.as_deref()?))
        })
        .collect();
    let reason = |name: &str| refused.iter().find(|(file, _)| *file == name).map_or("", |(_, reason)| reason);
    assert!(reason("folder.yml").contains("folder"));
    assert!(reason("latin.yml").contains("line 2"), "{refused:?}");
    assert!(reason("large.yml").contains("MB"));
    assert_eq!(reason("a.yml"), "");
    #[cfg(unix)]
    {
        assert!(reason("loop.yml").contains("nowhere"));
        assert!(reason("out.yml").contains("out of the repository"));
        assert_eq!(reason("inside.yml"), "");
    }
}

#[test]
fn a_broken_git_folder_leaves_its_facts_unknown() {
    let dir = folder(&[(".github/workflows/a.yml", ""), (".git/HEAD", "nonsense"), ("package-lock.json", "{}")]);
    let repository = read(&dir, &[]);
    assert_eq!(names(&repository), [".github/workflows/a.yml"]);
    assert!(repository.facts.git.branches.known().is_none());
    assert_eq!(repository.facts.has_file("package-lock.json"), Some(true));
}

#[test]
fn settings_skip_files_and_wrong_ones_stop() {
    let dir = folder(&[(".github/workflows/a.yml", ""), ("dulk.toml", "[files]\nskip = [\".github/**\"]\n")]);
    assert!(names(&read(&dir, &[])).is_empty());
    fs::write(dir.path().join("dulk.toml"), "[file]\n").unwrap_or_else(|error| panic!("{error}"));
    let error = gather(dir.path(), &[]).err().map(|error| error.to_string()).unwrap_or_default();
    assert!(error.contains("dulk.toml:1") && error.contains("files"), "{error}");
}

#[cfg(unix)]
#[test]
fn files_in_turn_are_refused_as_each_by_itself() {
    let outside = folder(&[("secret.yml", "a: 1")]);
    let dir =
        folder(&[("a/b/one.yml", "1"), ("a/b/two.yml", "2"), ("a/bb/three.yml", "3"), ("top.yml", "4"), (".git/config", "5")]);
    let link = |target: PathBuf, name: &str| {
        std::os::unix::fs::symlink(target, dir.path().join(name)).unwrap_or_else(|error| panic!("{error}"));
    };
    link(outside.path().join("secret.yml"), "a/b/out.yml");
    link(outside.path().to_owned(), "a/b/away");
    link(dir.path().join("a/bb"), "a/near");
    let root = fs::canonicalize(dir.path()).unwrap_or_else(|error| panic!("{error}"));
    let mut files = gate::InTurn::of(&root);
    let names = [
        "a/b/one.yml",
        "a/b/two.yml",
        "a/b/out.yml",
        "a/b/away/secret.yml",
        "a/bb/three.yml",
        "a/b/none.yml",
        "a/near/three.yml",
        "a/near/three.yml",
        "top.yml",
        ".git/config",
        "a/b/../b/one.yml",
        "a/b/../../../x",
        "a/b",
        "a/b/",
        "a/b//one.yml",
    ];
    for name in names {
        assert_eq!(files.read(name), gate::read(&root, name), "{name}");
    }
    assert!(files.read("a/b/away/secret.yml").is_err() && files.read("a/b/out.yml").is_err());
    assert_eq!(files.read("a/b/two.yml").as_deref(), Ok(&b"2"[..]));
}

#[test]
fn the_files_of_a_commit_are_those_that_git_lists() {
    let dir = folder(&[("a.txt", "1"), ("a/b", "2"), ("a/b.d/e", "3"), ("a-b/c/d", "4"), ("a0", "5"), ("é/z", "6"), ("z", "7")]);
    let git = |arguments: &[&str]| {
        let run = std::process::Command::new("git").args(arguments).current_dir(dir.path()).output();
        let output = run.unwrap_or_else(|error| panic!("{error}"));
        assert!(output.status.success(), "{arguments:?}: {}", String::from_utf8_lossy(&output.stderr));
        String::from_utf8_lossy(&output.stdout).into_owned()
    };
    git(&["init", "-q"]);
    git(&["add", "-A"]);
    git(&["-c", "user.name=ferry", "-c", "user.email=ferry@island.example", "commit", "-qm", "Timetable"]);
    let repository = gix::open(dir.path()).unwrap_or_else(|error| panic!("{error}"));
    let commit = commit::Commit::of(&repository, "HEAD").unwrap_or_else(|error| panic!("{error}"));
    let listed = git(&["-c", "core.quotePath=false", "ls-tree", "-r", "--name-only", "HEAD"]);
    assert_eq!(commit.paths, listed.lines().collect::<Vec<_>>());
    assert_eq!(commit.read("a/b.d/e").as_deref(), Ok("3"));
    assert_eq!(commit.names_in("a"), ["b", "b.d"]);
}
