//! Installed by real package managers: the tarballs of `scripts/pack`, made of the program of these tests and offered by a small registry on
//! this machine.
#![cfg(unix)]

use std::fs;
use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::OnceLock;

use assert_cmd::cargo::cargo_bin;

use crate::house::{House, said};

const FAULTY: &str = "on:\n  push:\n    branches: [master]\npermissions: {contents: write}\njobs:\n  publish:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v5\n      - run: npx vite build\n      - run: npx gh-pages -d dist -r $ADDRESS\n";

/// The registry; it ends with these tests, when its standard input does.
struct Registry {
    address: String,
    /// The tarballs.
    shelf: tempfile::TempDir,
    _server: Child,
}

fn top() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().expect("the top")
}

fn registry() -> &'static Registry {
    static REGISTRY: OnceLock<Registry> = OnceLock::new();
    REGISTRY.get_or_init(|| {
        let shelf = tempfile::tempdir().expect("a temporary folder");
        // What is only for debugging makes up most of it.
        let program = shelf.path().join("dulk");
        fs::copy(cargo_bin!("dulk"), &program).expect("a copy");
        let _ = Command::new("strip").arg(&program).status();
        let packed =
            Command::new("node").arg(top().join("scripts/pack")).arg("--program").arg(&program).arg(shelf.path()).output();
        let packed = packed.expect("node runs");
        assert!(packed.status.success(), "{}", String::from_utf8_lossy(&packed.stderr));
        let mut server = Command::new("node")
            .arg(top().join("npm/registry.js"))
            .arg(shelf.path())
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .expect("node runs");
        let mut address = String::new();
        BufReader::new(server.stdout.take().expect("a pipe")).read_line(&mut address).expect("an address");
        Registry { address: address.trim().to_owned(), shelf, _server: server }
    })
}

/// Whether this machine has what a test needs; where everything has to be there, what is missing is a failure.
#[expect(clippy::print_stderr, reason = "a test that is skipped says so")]
fn has(what: &str, found: bool) -> bool {
    assert!(found || std::env::var_os("DULK_TEST_EVERYTHING").is_none(), "{what} is missing");
    if !found {
        eprintln!("skipped: {what} is missing; scripts/package-managers installs the package managers");
    }
    found
}

fn has_npm() -> bool {
    let runs = |program: &str| Command::new(program).arg("--version").output().is_ok_and(|ran| ran.status.success());
    has("node or npm", runs("node") && runs("npm"))
}

/// A package manager that `scripts/package-managers` has installed.
fn manager(script: &str) -> Option<PathBuf> {
    let target = std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| top().join("target"), PathBuf::from);
    let path = target.join("package-managers/node_modules").join(script);
    (has_npm() && has(script, path.is_file())).then_some(path)
}

/// A project without anything installed, that takes its packages from the registry.
struct Project {
    house: House,
    /// What starts the package manager.
    manager: Vec<String>,
}

impl Project {
    fn new(manager: &[&str], settings: &[(&str, &str)]) -> Self {
        let house = House::with_git(&[
            (".github/workflows/sail.yml", FAULTY),
            ("package.json", "{\"name\": \"tarnsay-sails\", \"private\": true, \"scripts\": {\"ready\": \"dulk check\"}}\n"),
            (".gitignore", "node_modules\n.yarn\n.pnp.*\nhome\n"),
        ]);
        for (name, text) in settings {
            house.write(name, text.replace("REGISTRY", &registry().address));
        }
        house.write("home/.keep", "");
        Self { house, manager: manager.iter().map(|word| (*word).to_owned()).collect() }
    }

    fn path(&self) -> &Path {
        self.house.path()
    }

    /// Runs something at the top, with a home of its own; gives how it ended, and what it said.
    fn run(&self, command: &[&str]) -> (Option<i32>, String) {
        let ran = Command::new(command[0])
            .args(&command[1..])
            .current_dir(self.path())
            .env("HOME", self.path().join("home"))
            .env("npm_config_registry", &registry().address)
            .env("npm_config_update_notifier", "false")
            .env("YARN_CACHE_FOLDER", self.path().join("home/yarn"))
            .env("GIT_CONFIG_GLOBAL", "/dev/null")
            .env_remove("CI")
            .output()
            .expect("it runs");
        (ran.status.code(), said(&ran))
    }

    /// Runs the package manager, which has to succeed.
    fn manage(&self, args: &[&str]) -> String {
        let (code, said) = self.call(args);
        assert_eq!(code, Some(0), "{args:?}: {said}");
        said
    }

    fn call(&self, args: &[&str]) -> (Option<i32>, String) {
        let start = self.manager.iter().map(String::as_str);
        self.run(&start.chain(args.iter().copied()).collect::<Vec<_>>())
    }

    /// Pushes to a fresh repository as a graphical client does: without a terminal, a home or a shell's settings, and with nothing but git and a
    /// system's own programs at hand, Node not among them.
    fn push(&self) -> (bool, String) {
        let tools = self.path().join("home/tools");
        if !tools.exists() {
            fs::create_dir(&tools).expect("a folder");
            for tool in ["git", "sh", "cat", "head", "uname"] {
                let found = ["/usr/local/bin", "/usr/bin", "/bin"].map(|folder| Path::new(folder).join(tool));
                let found = found.iter().find(|path| path.is_file()).expect("a usual program");
                std::os::unix::fs::symlink(found, tools.join(tool)).expect("a link");
            }
        }
        let mut push = Command::new(tools.join("git"));
        push.arg("push").arg(self.house.far()).arg("main").current_dir(self.path()).env_clear().env("PATH", &tools);
        let ran = push.env("GIT_CONFIG_NOSYSTEM", "1").output().expect("git runs");
        (ran.status.success(), said(&ran))
    }

    /// Looks, puts the guard on, and pushes what is wrong and then what is mended; `dulk` runs the program by the package manager.
    fn works(&self, dulk: &[&str]) {
        let run = |args: &[&str]| self.call(&[dulk, args].concat());
        let (code, said) = run(&["check"]);
        assert!(code == Some(1) && said.contains("branch.absent"), "{code:?} {said}");
        let (code, said) = run(&["guard", "on"]);
        assert!(code == Some(0) && !said.contains("cleared away"), "{said}");
        let (through, said) = self.push();
        assert!(!through && said.contains("branch.absent"), "{said}");
        self.house.write(".github/workflows/sail.yml", FAULTY.replace("master", "main"));
        self.house.git(&["commit", "-q", "-am", "mended"]);
        let (through, said) = self.push();
        assert!(through && said.contains("publishes the folder dist"), "{said}");
        let (code, said) = run(&["check"]);
        assert_eq!(code, Some(0), "{said}");
    }

    /// Installs it, works with it, and installs it again offline, from what the first install has kept.
    fn works_twice(&self, install: &[&str], dulk: &[&str], again: &[&str]) {
        self.manage(install);
        self.works(dulk);
        fs::remove_dir_all(self.path().join("node_modules")).expect("removed");
        assert!(self.push().0, "nothing to push is nothing to look at");
        self.manage(again);
        self.still_guarded();
    }

    /// What the guard says once the packages are installed again.
    fn still_guarded(&self) {
        self.house.git(&["commit", "-q", "--allow-empty", "-m", "again"]);
        let (through, said) = self.push();
        assert!(through && said.contains("publishes the folder dist"), "{said}");
    }
}

fn in_npm() -> Project {
    Project::new(&["npm", "--no-audit", "--no-fund"], &[])
}

#[test]
fn npm_installs_it_and_the_guard_works_without_node() {
    if !has_npm() {
        return;
    }
    let project = in_npm();
    project.works_twice(&["install", "--save-dev", "dulk"], &["exec", "--", "dulk"], &["ci", "--offline"]);
    let packages: Vec<_> = fs::read_dir(project.path().join("node_modules/@dulk")).expect("a folder").flatten().collect();
    assert_eq!(packages.len(), 1, "the one for this machine: {packages:?}");
    // In a package script, also one that calls it with options.
    let (code, said) = project.call(&["run", "ready", "--", "--format", "json"]);
    assert!(code == Some(0) && said.contains("\"findings\""), "{said}");
}

#[test]
fn one_call_of_npx_is_enough_to_look_and_says_when_it_is_not() {
    if !has_npm() {
        return;
    }
    let project = in_npm();
    let (code, said) = project.run(&["npx", "--yes", "dulk"]);
    assert!(code == Some(1) && said.contains("branch.absent"), "{said}");
    let (code, said) = project.run(&["npx", "--yes", "dulk", "guard", "on"]);
    assert!(code == Some(0) && said.contains("npm install --save-dev dulk"), "{said}");
    assert!(!project.path().join("node_modules").exists());
}

/// A project in which a package manager runs that Node starts, and that reads what npm does.
fn like_npm(script: &str) -> Option<Project> {
    let manager = manager(script)?.display().to_string();
    Some(Project::new(&["node", &manager], &[(".npmrc", "registry=REGISTRY\n")]))
}

#[test]
fn pnpm_installs_it_too() {
    let Some(project) = like_npm("pnpm/bin/pnpm.mjs") else { return };
    project.works_twice(&["add", "--save-dev", "dulk"], &["exec", "dulk"], &["install", "--offline", "--frozen-lockfile"]);
}

#[test]
fn yarn_installs_it_too() {
    let Some(project) = like_npm("yarn/bin/yarn.js") else { return };
    let dulk = ["run", "--silent", "dulk"];
    project.works_twice(&["add", "--dev", "dulk"], &dulk, &["install", "--offline", "--frozen-lockfile"]);
}

#[test]
fn yarn_without_node_modules_installs_it_too() {
    let Some(yarn) = manager("@yarnpkg/cli-dist/bin/yarn.js") else { return };
    let settings =
        "npmRegistryServer: REGISTRY\nunsafeHttpWhitelist: [127.0.0.1]\nenableTelemetry: false\nenableGlobalCache: false\n";
    let project = Project::new(&["node", &yarn.display().to_string()], &[(".yarnrc.yml", settings), ("yarn.lock", "")]);
    project.manage(&["add", "--dev", "dulk"]);
    assert!(!project.path().join("node_modules").exists());
    project.works(&["dulk"]);
    fs::remove_dir_all(project.path().join(".yarn/unplugged")).expect("removed");
    project.house.write(".yarnrc.yml", format!("{}enableNetwork: false\n", settings.replace("REGISTRY", &registry().address)));
    project.manage(&["install", "--immutable"]);
    project.still_guarded();
}

#[test]
fn where_the_program_is_missing_one_line_says_what_to_do() {
    if !has_npm() {
        return;
    }
    let project = in_npm();
    project.manage(&["install", "--save-dev", "--omit=optional", "dulk"]);
    let launcher = project.path().join("node_modules/dulk/dulk.js").display().to_string();
    let (code, said) = project.run(&["node", &launcher, "check"]);
    assert!(code == Some(2) && said.lines().count() == 1 && said.contains("npm install --include=optional"), "{said}");
    let pretended = "Object.defineProperty(process, 'platform', { value: 'plan9' }); require(process.argv[1])";
    let (code, said) = project.run(&["node", "-e", pretended, &launcher]);
    assert!(code == Some(2) && said.lines().count() == 1 && said.contains("no ready-made program for plan9"), "{said}");
}

#[test]
fn the_packages_hold_the_licences_of_everything_inside_and_run_nothing_at_install() {
    if !has_npm() {
        return;
    }
    let shelf = registry().shelf.path();
    let tarballs: Vec<PathBuf> = fs::read_dir(shelf).expect("a folder").flatten().map(|entry| entry.path()).collect();
    let read = |tarball: &Path, file: &str| {
        let ran = Command::new("tar").arg("-xzOf").arg(tarball).arg(format!("package/{file}")).output().expect("tar runs");
        ran.status.success().then(|| String::from_utf8_lossy(&ran.stdout).into_owned())
    };
    let mut seen = 0;
    for tarball in tarballs.iter().filter(|path| path.extension().is_some_and(|end| end == "tgz")) {
        let manifest: serde_json::Value =
            serde_json::from_str(&read(tarball, "package.json").expect("a manifest")).expect("JSON");
        assert_eq!(manifest["version"], env!("CARGO_PKG_VERSION"));
        assert!(manifest["scripts"].is_null() && manifest["dependencies"].is_null(), "{manifest}");
        assert!(read(tarball, "LICENSE-MIT").is_some() && read(tarball, "LICENSE-APACHE").is_some());
        if manifest["name"] == "dulk" {
            let page = read(tarball, "man/dulk.1").expect("a manual page");
            assert!(
                page.contains(".TH") && read(tarball, "completions/_dulk").is_some_and(|text| text.contains("#compdef dulk"))
            );
        } else {
            let licences = read(tarball, "licences.txt").expect("the licences");
            assert!(["\nserde ", "\ngix ", "\noxc_parser ", "\nmusl "].iter().all(|name| licences.contains(name)));
            assert!(!licences.contains("\nsyn ") && !licences.contains("\ninsta "), "what only builds or tests it is not inside");
        }
        seen += 1;
    }
    assert_eq!(seen, 2);
}

#[test]
#[cfg(target_os = "linux")]
fn it_is_laid_out_for_packages_of_operating_systems() {
    let root = tempfile::tempdir().expect("a temporary folder");
    let staged = Command::new(top().join("scripts/stage")).arg(root.path()).arg(cargo_bin!("dulk")).output().expect("it runs");
    assert!(staged.status.success(), "{}", String::from_utf8_lossy(&staged.stderr));
    for (file, part) in [
        ("share/man/man1/dulk.1", ".TH dulk"),
        ("share/man/man1/dulk-guard-on.1", "strict"),
        ("share/bash-completion/completions/dulk", "complete -F"),
        ("share/zsh/site-functions/_dulk", "#compdef dulk"),
        ("share/fish/vendor_completions.d/dulk.fish", "complete -c dulk"),
        ("share/doc/dulk/LICENSE-MIT", "Permission is hereby granted"),
    ] {
        let text = fs::read_to_string(root.path().join("usr").join(file)).unwrap_or_default();
        assert!(text.contains(part), "{file}");
    }
    let ran = Command::new(root.path().join("usr/bin/dulk")).arg("--version").output().expect("it runs");
    assert_eq!(String::from_utf8_lossy(&ran.stdout).trim(), concat!("dulk ", env!("CARGO_PKG_VERSION")));
}
