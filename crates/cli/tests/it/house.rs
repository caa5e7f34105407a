//! A small repository in a temporary folder, and the program run in it.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use assert_cmd::cargo::cargo_bin;

/// The day on which all tests of the program stand.
pub const TODAY: &str = "2026-11-25";

/// A pipeline in which nothing is wrong and nothing is published.
#[cfg(unix)]
pub const HARMLESS: &str =
    "on: push\npermissions: {contents: read}\njobs:\n  plan:\n    runs-on: ubuntu-latest\n    steps: [{run: ls}]\n";

/// A folder that goes away with its value.
pub struct House {
    dir: tempfile::TempDir,
}

impl House {
    /// With these files and no git.
    pub fn new(files: &[(&str, &str)]) -> Self {
        let dir = tempfile::tempdir().expect("a temporary folder");
        let house = Self { dir };
        for (name, text) in files {
            house.write(name, text);
        }
        house
    }

    /// With these files in one commit of a git repository, on the branch main.
    pub fn with_git(files: &[(&str, &str)]) -> Self {
        let house = Self::new(files);
        house.git(&["init", "-q", "-b", "main"]);
        house.git(&["add", "-A"]);
        house.git(&["commit", "-q", "--allow-empty", "-m", "first"]);
        house
    }

    pub fn path(&self) -> &Path {
        self.dir.path()
    }

    pub fn write(&self, name: &str, text: impl AsRef<[u8]>) -> PathBuf {
        let path = self.path().join(name);
        fs::create_dir_all(path.parent().expect("a parent")).expect("a folder");
        fs::write(&path, text).expect("a file");
        path
    }

    /// A file that can be run.
    #[cfg(unix)]
    pub fn write_program(&self, name: &str, text: impl AsRef<[u8]>) -> PathBuf {
        use std::os::unix::fs::PermissionsExt;
        let path = self.write(name, text);
        fs::set_permissions(&path, fs::Permissions::from_mode(0o755)).expect("a mode");
        path
    }

    pub fn git(&self, args: &[&str]) {
        let identity = ["-c", "user.name=Pier", "-c", "user.email=pier@tarnsay.example"];
        let done = git().args(identity).args(args).current_dir(self.path()).output().expect("git runs");
        assert!(done.status.success(), "git {args:?}: {}", String::from_utf8_lossy(&done.stderr));
    }

    /// As cloned from there: the default branch is known.
    pub fn clone_of(self, url: &str) -> Self {
        self.git(&["remote", "add", "origin", url]);
        self.git(&["update-ref", "refs/remotes/origin/main", "HEAD"]);
        self.git(&["symbolic-ref", "refs/remotes/origin/HEAD", "refs/remotes/origin/main"]);
        self
    }

    /// The repository that is pushed to: nothing is in it when it is first asked for.
    #[cfg(unix)]
    pub fn far(&self) -> PathBuf {
        let far = self.path().join(".git/far");
        if !far.exists() {
            self.git(&["init", "-q", "--bare", "-b", "main", &far.display().to_string()]);
        }
        far
    }

    /// Pushes there, with nothing on the path but what belongs to every system; gives whether it went through, and what was said.
    #[cfg(unix)]
    pub fn push(&self, args: &[&str]) -> (bool, String) {
        let path = "/usr/local/bin:/usr/bin:/bin";
        let mut push = git();
        push.arg("push").arg(self.far()).args(args).current_dir(self.path()).env("PATH", path);
        let output = push.output().expect("git runs");
        (output.status.success(), said(&output))
    }

    /// Puts the guard on; gives what was said.
    #[cfg(unix)]
    pub fn guard_on(&self, args: &[&str]) -> String {
        let ran = self.dulk(&[&["guard", "on"], args].concat());
        assert_eq!(ran.code, Some(0), "{}{}", ran.out, ran.err);
        ran.out
    }

    /// Runs the program at the top.
    pub fn dulk(&self, args: &[&str]) -> Ran {
        self.dulk_in("", args)
    }

    /// Runs the program at the top with little memory, and for a minute at most.
    #[cfg(unix)]
    pub fn dulk_capped(&self, args: &[&str]) -> Ran {
        let capped = "ulimit -v 1500000; exec timeout 60 \"$0\" \"$@\" --today 2026-11-25";
        let mut command = Command::new("sh");
        command.args(["-c", capped]).arg(cargo_bin!("dulk")).args(args).current_dir(self.path());
        Ran::new(command.output().expect("sh runs"))
    }

    /// Runs the program in a subfolder, on a fixed day unless the call names another: what goes out of use later breaks no test.
    pub fn dulk_in(&self, dir: &str, args: &[&str]) -> Ran {
        Ran::new(self.command(dir, args).output().expect("dulk runs"))
    }

    /// Runs the program at the top with some variables.
    pub fn dulk_with(&self, variables: &[(&str, &str)], args: &[&str]) -> Ran {
        Ran::new(self.command("", args).envs(variables.iter().copied()).output().expect("dulk runs"))
    }

    fn command(&self, dir: &str, args: &[&str]) -> Command {
        let day: &[&str] = if args.contains(&"--today") { &[] } else { &["--today", TODAY] };
        let mut command = Command::new(cargo_bin!("dulk"));
        command
            .args(args)
            .args(day)
            .current_dir(self.path().join(dir))
            .env_remove("NO_COLOR")
            .env("GIT_CONFIG_GLOBAL", "/dev/null");
        command
    }
}

/// git without the settings of whoever runs the tests.
pub fn git() -> Command {
    let mut command = Command::new("git");
    command.env("GIT_CONFIG_GLOBAL", "/dev/null").env("GIT_CONFIG_NOSYSTEM", "1");
    command
}

/// What was said on both of a program's outputs.
pub fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stdout).into_owned() + &String::from_utf8_lossy(&output.stderr)
}

/// What the program gave.
pub struct Ran {
    pub code: Option<i32>,
    pub out: String,
    pub err: String,
}

impl Ran {
    fn new(output: Output) -> Self {
        let text = |bytes: Vec<u8>| String::from_utf8(bytes).expect("UTF-8");
        Self { code: output.status.code(), out: text(output.stdout), err: text(output.stderr) }
    }

    /// The JSON on standard output.
    pub fn json(&self) -> serde_json::Value {
        serde_json::from_str(&self.out).unwrap_or_else(|error| panic!("{error}: {}", self.out))
    }

    /// The rules of all findings, in their order.
    pub fn rules(&self) -> Vec<String> {
        let findings = self.json()["findings"].as_array().cloned().unwrap_or_default();
        findings.iter().filter_map(|finding| finding["rule"].as_str().map(str::to_owned)).collect()
    }
}

/// Breaks a healthy pipeline in one way after the other: what is replaced in it, by what, and the rule that speaks. `house` puts it into a
/// repository, `day` is the day of the check.
pub fn broken(text: &str, house: impl Fn(&str) -> House, day: &str, faults: &[(&str, &str, &str)]) {
    for (from, to, rule) in faults {
        assert!(text.contains(from), "{from} stands nowhere in the healthy one");
        let ran = house(&text.replacen(from, to, 1)).dulk(&["check", "--today", day, "--format", "json"]);
        assert!(ran.rules().iter().any(|found| found == rule), "{from} -> {to}: {rule} is silent, found {:?}", ran.rules());
    }
}

/// A workflow with one job of these steps, indented by six.
pub fn workflow(head: &str, steps: &str) -> String {
    format!("{head}\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps:\n{steps}")
}
