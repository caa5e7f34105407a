//! Names that tell what a thing is, as data.

use std::collections::HashSet;
use std::sync::OnceLock;

use super::{List, Table, Word, bare_image, official_image};

/// `catalog/names.toml`.
#[derive(Debug)]
pub struct KnownNames {
    /// Images that bring a runtime, by their names, with the runtime.
    pub images: Table<Word>,
    /// Package managers that such an image does not bring, though people expect it.
    pub image_lacks: Table<List<Word>>,
    pub(super) image_programs: Table<Word>,
    pub(super) bare_image: List<BareImage>,
    pub(super) brings: Table<List<Word>>,
    /// Plain lists.
    pub lists: NameLists,
}

/// Programs that an image does not bring.
#[derive(Debug)]
pub(super) struct BareImage {
    pub(super) names: List<Word>,
    pub(super) tag: Option<Word>,
    pub(super) lacks: List<Word>,
}

/// Plain lists of names.
#[derive(Debug)]
pub struct NameLists {
    /// Packages that work out addresses in the browser.
    pub routers: List<Word>,
    /// Programs that come with a package which people install on a whole machine, and with no image of a runtime.
    pub installed_programs: List<Word>,
    /// Words in a folder's name that say a file is kept there on purpose.
    pub(super) kept_on_purpose: List<Word>,
    /// Parts of paths of what comes from elsewhere.
    pub(super) others_folders: List<Word>,
    /// What stands before a variable's name where a program reads it.
    pub variable_reads: List<Word>,
    /// Endings of files that a page is made of.
    pub page_endings: List<Word>,
    /// Folders that such files lie in.
    pub page_folders: List<Word>,
    /// Files that facts come from, beside package.json and those of generators and hosts.
    pub site_files: List<Word>,
    /// Words of a key whose value is a version.
    pub version_words: List<Word>,
    /// Inputs of actions that give git a credential for later steps.
    pub credential_inputs: List<Word>,
    /// Files and folders that say that what is built is run on a server.
    pub server_files: List<Word>,
    /// Programs that give a text another form.
    pub encoders: List<Word>,
    /// Branches that forges take pages from unless they are told otherwise.
    pub pages_branches: List<Word>,
    /// Variables that a machine or a program that runs others has set anyway; one that ends in `*` stands for all that begin so.
    pub machine_variables: List<Word>,
    /// Words that say how a program is given a key for another machine.
    pub key_words: List<Word>,
    /// Hosts that stand for examples, with all below them.
    pub sample_hosts: List<Word>,
    /// Words in a branch's name that say it is there for trying things out.
    pub trial_words: List<Word>,
    /// Files that a host looks for in what is published.
    pub served_files: List<Word>,
}

impl KnownNames {
    /// The host of an address, when it stands for an example in manuals.
    pub fn sample_host<'a>(&self, address: &'a str) -> Option<&'a str> {
        let rest = address.split_once("://").map_or(address, |(_, rest)| rest);
        let host = rest.split(['/', ':', '?']).next()?;
        let is_sample = |known: &&str| host == *known || host.strip_suffix(known).is_some_and(|before| before.ends_with('.'));
        self.lists.sample_hosts.iter().any(is_sample).then_some(host)
    }

    /// The program that an image runs with the words that it is given, "" where those are a program themselves; nothing when the image is
    /// not known.
    pub fn program_of_image(&self, image: &str) -> Option<&str> {
        let plain = official_image(bare_image(image));
        let by_end = || plain.rsplit_once('/').and_then(|(_, last)| self.image_programs.get(&format!("*/{last}")));
        self.image_programs.get(plain).or_else(by_end).copied()
    }

    /// Programs that an image does not bring; nothing when the image is not known.
    pub fn lacking_in(&self, image: &str) -> Option<&[&str]> {
        let plain = official_image(image);
        let (name, tag) = plain.split_once(':').unwrap_or((plain, "latest"));
        let fits = |bare: &&BareImage| bare.names.contains(&name) && bare.tag.as_ref().is_none_or(|word| tag.contains(word));
        self.bare_image.iter().find(fits).map(|bare| bare.lacks)
    }

    /// Whether a program comes only with a package that is installed on a machine.
    pub fn is_installed(&self, program: &str) -> bool {
        self.lists.installed_programs.contains(&program)
    }

    /// Whether some image that is known lacks a program.
    pub fn is_lacking_somewhere(&self, program: &str) -> bool {
        static LACKING: OnceLock<HashSet<&'static str>> = OnceLock::new();
        let all = || super::names().bare_image.iter().flat_map(|bare| bare.lacks).copied().collect();
        LACKING.get_or_init(all).contains(program)
    }

    /// Whether a word of a command names what brings a program.
    pub fn brings(&self, word: &str, program: &str) -> bool {
        let parts = self.brings.get(program).map_or(&[][..], |list| *list);
        word.contains(program) || parts.iter().any(|part| word.contains(part))
    }

    /// Whether a variable is set anyway, by the machine or by what runs the program.
    pub fn is_of_machine(&self, name: &str) -> bool {
        let fits = |known: &&str| known.strip_suffix('*').map_or(*known == name, |start| name.starts_with(start));
        self.lists.machine_variables.iter().any(fits)
    }

    /// Whether the name of a file or folder says that it is kept switched off, or as an example, on purpose.
    pub fn is_kept_on_purpose(&self, path: &str) -> bool {
        has_any(path, self.lists.kept_on_purpose)
    }

    /// Whether a path lies among what others wrote.
    pub fn is_of_others(&self, path: &str) -> bool {
        has_any(path, self.lists.others_folders)
    }

    /// Whether a branch is there for trying things out, by the parts of its name.
    pub fn is_for_trying(&self, branch: &str) -> bool {
        let mut parts = branch.split(['/', '-', '_', '.']);
        parts.any(|part| self.lists.trial_words.iter().any(|word| part.eq_ignore_ascii_case(word)))
    }
}

/// Whether a path holds one of some small words, in whatever case. Only the few paths are asked that may be pipelines: making one search
/// for all words would take longer than looking for each.
fn has_any(path: &str, words: &[&str]) -> bool {
    let path = path.to_ascii_lowercase();
    words.iter().any(|word| path.contains(word))
}
