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

/// Runs git in a folder, without the settings of this machine, and gives what it says.
fn git(dir: &tempfile::TempDir, arguments: &[&str]) -> String {
    let named = ["-c", "user.name=ferry", "-c", "user.email=ferry@island.example", "-c", "core.quotePath=false"];
    let mut command = std::process::Command::new("git");
    command.args(named).args(arguments).current_dir(dir.path());
    command.envs([("GIT_CONFIG_GLOBAL", "/dev/null"), ("GIT_CONFIG_SYSTEM", "/dev/null"), ("HOME", "/nonexistent")]);
    let run = command.output();
    let output = run.unwrap_or_else(|error| panic!("{error}"));
    assert!(output.status.success(), "{arguments:?}: {}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8_lossy(&output.stdout).into_owned()
}

fn opened(dir: &tempfile::TempDir) -> gix::Repository {
    gix::open(dir.path()).unwrap_or_else(|error| panic!("{error}"))
}

fn head(repository: &gix::Repository) -> commit::Commit<'_> {
    commit::Commit::of(repository, "HEAD").unwrap_or_else(|error| panic!("{error}"))
}

#[test]
fn the_files_of_a_commit_are_those_that_git_lists() {
    let dir = folder(&[("a.txt", "1"), ("a/b", "2"), ("a/b.d/e", "3"), ("a-b/c/d", "4"), ("a0", "5"), ("é/z", "6"), ("z", "7")]);
    git(&dir, &["init", "-q"]);
    git(&dir, &["add", "-A"]);
    git(&dir, &["commit", "-qm", "Timetable"]);
    let repository = opened(&dir);
    let commit = head(&repository);
    assert_eq!(*commit.paths, git(&dir, &["ls-tree", "-r", "--name-only", "HEAD"]).lines().collect::<Vec<_>>());
    assert_eq!(commit.read("a/b.d/e").as_deref(), Ok("3"));
    assert_eq!(commit.names_in("a"), ["b", "b.d"]);
}

#[test]
fn a_commit_is_read_the_same_from_loose_packed_and_replaced_objects() {
    let (small, large) = ("Quay\n".repeat(40), "Pier\n".repeat(1 << 20));
    let dir = folder(&[("small.txt", &small), ("large.txt", &large), ("empty.txt", "")]);
    git(&dir, &["init", "-q"]);
    git(&dir, &["add", "-A"]);
    git(&dir, &["commit", "-qm", "Timetable"]);
    let is_as_written = |place: &str| {
        let repository = opened(&dir);
        let commit = head(&repository);
        assert_eq!(commit.read("small.txt"), Ok(small.clone()), "{place}");
        assert_eq!(commit.read("empty.txt").as_deref(), Ok(""), "{place}");
        assert_eq!(commit.read("large.txt"), Err("it is 5 MB large; no more than 4 MB are read".to_owned()), "{place}");
        assert_eq!(commit.read_small("small.txt", 200), Some(Ok(small.clone())), "{place}");
        assert_eq!(commit.read_small("small.txt", 199), None, "{place}");
        assert_eq!(commit.read_small("large.txt", 6 << 20), Some(commit.read("large.txt")), "{place}");
    };
    is_as_written("loose");
    fs::write(dir.path().join("other.txt"), "Jetty").unwrap_or_else(|error| panic!("{error}"));
    let before = git(&dir, &["rev-parse", "HEAD:small.txt"]);
    let after = git(&dir, &["hash-object", "-w", "other.txt"]);
    git(&dir, &["replace", before.trim(), after.trim()]);
    assert_eq!(head(&opened(&dir)).read("small.txt").as_deref(), Ok("Jetty"));
    git(&dir, &["replace", "-d", before.trim()]);
    git(&dir, &["gc", "-q"]);
    is_as_written("packed");
}

/// Bytes as zlib writes them that does not press them. Source: RFC 1950, section 2.2, and RFC 1951, section 3.2.4, 2026-11.
fn unpressed(bytes: &[u8]) -> Vec<u8> {
    let length = u16::try_from(bytes.len()).unwrap_or_default();
    let (low, high) = bytes.iter().fold((1, 0), |(low, high), byte| {
        let low = (low + u32::from(*byte)) % 65_521;
        (low, (high + low) % 65_521)
    });
    let block = [&[0x78, 0x01, 0x01][..], &length.to_le_bytes(), &(!length).to_le_bytes(), bytes];
    [&block.concat()[..], &(high << 16 | low).to_be_bytes()].concat()
}

#[test]
fn an_object_that_says_another_length_than_it_has_is_not_read() {
    let dir = folder(&[("small.txt", "Quay")]);
    git(&dir, &["init", "-q"]);
    git(&dir, &["add", "-A"]);
    git(&dir, &["commit", "-qm", "Timetable"]);
    let id = git(&dir, &["rev-parse", "HEAD:small.txt"]);
    let object = dir.path().join(".git/objects").join(&id[..2]).join(id[2..].trim());
    let say = |length: u64| {
        let text = format!("blob {length}\0Quay");
        fs::remove_file(&object).unwrap_or_else(|error| panic!("{error}"));
        fs::write(&object, unpressed(text.as_bytes())).unwrap_or_else(|error| panic!("{error}"));
        let repository = opened(&dir);
        let commit = head(&repository);
        (commit.read("small.txt"), commit.read_small("small.txt", 200))
    };
    let broken = || Err("git's objects do not hold it".to_owned());
    assert_eq!(say(4), (Ok("Quay".to_owned()), Some(Ok("Quay".to_owned()))));
    assert_eq!(say(3), (broken(), Some(broken())));
    assert_eq!(say(100), (broken(), Some(broken())));
    assert_eq!(say(1000), (broken(), None));
    assert_eq!(say(4_000_000_000), (Err("it is 3815 MB large; no more than 4 MB are read".to_owned()), None));
}
