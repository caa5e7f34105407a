//! Names that tell what a thing is, as data.

use std::collections::{BTreeMap, HashSet};
use std::sync::{LazyLock, OnceLock};

use aho_corasick::{AhoCorasick, AhoCorasickKind};
use serde::Deserialize;

use super::{bare_image, official_image};

/// `catalog/names.toml`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct KnownNames {
    /// Images that bring a runtime, by their names, with the runtime.
    pub images: BTreeMap<String, String>,
    /// Package managers that such an image does not bring, though people expect it.
    pub image_lacks: BTreeMap<String, Vec<String>>,
    image_programs: BTreeMap<String, String>,
    bare_image: Vec<BareImage>,
    brings: BTreeMap<String, Vec<String>>,
    /// Plain lists.
    pub lists: NameLists,
}

/// Programs that an image does not bring.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct BareImage {
    names: Vec<String>,
    tag: Option<String>,
    lacks: Vec<String>,
}

/// Plain lists of names.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct NameLists {
    /// Packages that work out addresses in the browser.
    pub routers: Vec<String>,
    /// Programs that come with a package which people install on a whole machine, and with no image of a runtime.
    pub installed_programs: Vec<String>,
    /// Words in a folder's name that say a file is kept there on purpose.
    kept_on_purpose: Vec<String>,
    /// Parts of paths of what comes from elsewhere.
    others_folders: Vec<String>,
    /// What stands before a variable's name where a program reads it.
    pub variable_reads: Vec<String>,
    /// Endings of files that a page is made of.
    pub page_endings: Vec<String>,
    /// Folders that such files lie in.
    pub page_folders: Vec<String>,
    /// Files that facts come from, beside package.json and those of generators and hosts.
    pub site_files: Vec<String>,
    /// Words of a key whose value is a version.
    pub version_words: Vec<String>,
    /// Inputs of actions that give git a credential for later steps.
    pub credential_inputs: Vec<String>,
    /// Files and folders that say that what is built is run on a server.
    pub server_files: Vec<String>,
    /// Programs that give a text another form.
    pub encoders: Vec<String>,
    /// Branches that forges take pages from unless they are told otherwise.
    pub pages_branches: Vec<String>,
    /// Variables that a machine or a program that runs others has set anyway; one that ends in `*` stands for all that begin so.
    pub machine_variables: Vec<String>,
    /// Words that say how a program is given a key for another machine.
    pub key_words: Vec<String>,
    /// Hosts that stand for examples, with all below them.
    pub sample_hosts: Vec<String>,
    /// Words in a branch's name that say it is there for trying things out.
    pub trial_words: Vec<String>,
    /// Files that a host looks for in what is published.
    pub served_files: Vec<String>,
}

impl KnownNames {
    /// The host of an address, when it stands for an example in manuals.
    pub fn sample_host<'a>(&self, address: &'a str) -> Option<&'a str> {
        let rest = address.split_once("://").map_or(address, |(_, rest)| rest);
        let host = rest.split(['/', ':', '?']).next()?;
        let is_sample =
            |known: &String| host == known || host.strip_suffix(known.as_str()).is_some_and(|before| before.ends_with('.'));
        self.lists.sample_hosts.iter().any(is_sample).then_some(host)
    }

    /// The program that an image runs with the words that it is given, "" where those are a program themselves; nothing when the image is
    /// not known.
    pub fn program_of_image(&self, image: &str) -> Option<&str> {
        let plain = official_image(bare_image(image));
        let by_end = || plain.rsplit_once('/').and_then(|(_, last)| self.image_programs.get(&format!("*/{last}")));
        self.image_programs.get(plain).or_else(by_end).map(String::as_str)
    }

    /// Programs that an image does not bring; nothing when the image is not known.
    pub fn lacking_in(&self, image: &str) -> Option<&[String]> {
        let plain = official_image(image);
        let (name, tag) = plain.split_once(':').unwrap_or((plain, "latest"));
        let fits = |bare: &&BareImage| {
            bare.names.iter().any(|known| known == name) && bare.tag.as_ref().is_none_or(|word| tag.contains(word.as_str()))
        };
        self.bare_image.iter().find(fits).map(|bare| bare.lacks.as_slice())
    }

    /// Whether a program comes only with a package that is installed on a machine.
    pub fn is_installed(&self, program: &str) -> bool {
        self.lists.installed_programs.iter().any(|known| known == program)
    }

    /// Whether some image that is known lacks a program.
    pub fn is_lacking_somewhere(&self, program: &str) -> bool {
        static LACKING: OnceLock<HashSet<&'static str>> = OnceLock::new();
        let all = || super::names().bare_image.iter().flat_map(|bare| &bare.lacks).map(String::as_str).collect();
        LACKING.get_or_init(all).contains(program)
    }

    /// Whether a word of a command names what brings a program.
    pub fn brings(&self, word: &str, program: &str) -> bool {
        let parts = self.brings.get(program).map_or(&[][..], Vec::as_slice);
        word.contains(program) || parts.iter().any(|part| word.contains(part.as_str()))
    }

    /// Whether a variable is set anyway, by the machine or by what runs the program.
    pub fn is_of_machine(&self, name: &str) -> bool {
        let fits = |known: &String| known.strip_suffix('*').map_or(known == name, |start| name.starts_with(start));
        self.lists.machine_variables.iter().any(fits)
    }

    /// Whether the name of a file or folder says that it is kept switched off, or as an example, on purpose.
    pub fn is_kept_on_purpose(&self, path: &str) -> bool {
        static WORDS: LazyLock<Option<AhoCorasick>> = LazyLock::new(|| any_of(&super::names().lists.kept_on_purpose));
        WORDS.as_ref().is_some_and(|words| words.is_match(path))
    }

    /// Whether a path lies among what others wrote.
    pub fn is_of_others(&self, path: &str) -> bool {
        static WORDS: LazyLock<Option<AhoCorasick>> = LazyLock::new(|| any_of(&super::names().lists.others_folders));
        WORDS.as_ref().is_some_and(|words| words.is_match(path))
    }

    /// Whether a branch is there for trying things out, by the parts of its name.
    pub fn is_for_trying(&self, branch: &str) -> bool {
        let mut parts = branch.split(['/', '-', '_', '.']);
        parts.any(|part| self.lists.trial_words.iter().any(|word| part.eq_ignore_ascii_case(word)))
    }
}

/// One search for many words, in upper or lower case: every path of a repository is asked.
fn any_of(words: &[String]) -> Option<AhoCorasick> {
    AhoCorasick::builder()
        .ascii_case_insensitive(true)
        .kind(Some(AhoCorasickKind::ContiguousNFA))
        .prefilter(false)
        .build(words)
        .ok()
}
