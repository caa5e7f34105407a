//! `lftp`, which takes commands of its own in one word. Source: its manual, `-e`, `-c` and `mirror`, 2026-11.

use super::run::{Call, Run, after_option};
use super::{Effect, UploadPath, join};
use crate::facts::Reach;
use crate::model::Target;

/// Options of `mirror` whose value is the next word.
const VALUE_OPTIONS: [&str; 10] =
    ["-x", "--exclude", "-X", "--exclude-glob", "-i", "--include", "-I", "--include-glob", "-N", "-P"];

/// What one command of the client does.
#[derive(Debug, PartialEq, Eq)]
enum Deed<'t> {
    /// It sends a folder; nothing where which is not known.
    Sends(Option<&'t str>),
    /// It would, and only says so.
    Tries,
    /// It sets something, goes somewhere far, or ends.
    Nothing,
    /// It may bring files.
    Unknown,
}

impl Run<'_, '_> {
    /// What the commands of a call do with the folder: `mirror -R FOLDER PLACE` puts it online.
    pub(super) fn file_client(&mut self, call: &Call<'_>) {
        let commands = after_option(call, "-e").or_else(|| after_option(call, "-c"));
        let Some(text) = commands.map(|word| word.text.as_str()) else {
            return self.add(Effect::Unknown(Reach::Anything), call.at);
        };
        for command in text.split([';', '\n']).flat_map(|part| part.split("&&")) {
            let effect = match deed(command) {
                Deed::Sends(folder) => sent(call, folder),
                Deed::Tries | Deed::Nothing => continue,
                Deed::Unknown => Effect::Unknown(Reach::Anything),
            };
            self.add(effect, call.at);
        }
    }
}

fn deed(command: &str) -> Deed<'_> {
    let mut words = command.split_whitespace();
    match words.next() {
        Some("mirror") => {}
        None | Some("set" | "open" | "user" | "cd" | "rm" | "mkdir" | "chmod" | "quit" | "exit" | "bye") => return Deed::Nothing,
        Some(_) => return Deed::Unknown,
    }
    let (mut sends, mut tries, mut folder) = (false, false, None);
    while let Some(word) = words.next() {
        if VALUE_OPTIONS.contains(&word) {
            words.next();
        } else if let Some(long) = word.strip_prefix("--") {
            sends |= long == "reverse";
            tries |= long == "dry-run";
        } else if let Some(short) = word.strip_prefix('-') {
            sends |= short.contains('R');
        } else if folder.is_none() {
            folder = Some(word);
        }
    }
    match (sends, tries) {
        (_, true) => Deed::Tries,
        (true, false) => Deed::Sends(folder.filter(|folder| !folder.contains(['$', '"', '\'', '\\', '*', '~']))),
        (false, false) => Deed::Unknown,
    }
}

fn sent(call: &Call<'_>, folder: Option<&str>) -> Effect {
    let folder =
        folder.map(|text| UploadPath { folder: join(&call.dir, text), at: call.at, written: text.to_owned(), glob: false });
    Effect::publish_to((Target::FileServer, None), folder, None, None)
}

#[cfg(test)]
mod tests {
    use super::{Deed, deed};

    #[test]
    fn only_a_mirror_in_reverse_sends_a_folder() {
        for (command, wanted) in [
            ("mirror -R dist /www", Deed::Sends(Some("dist"))),
            (" mirror --reverse --delete -x tmp dist /www", Deed::Sends(Some("dist"))),
            ("mirror -eRv $OUT /www", Deed::Sends(None)),
            ("mirror -R --dry-run dist /www", Deed::Tries),
            ("mirror /www old", Deed::Unknown),
            ("get index.html", Deed::Unknown),
            ("set ftp:ssl-force true", Deed::Nothing),
            ("", Deed::Nothing),
        ] {
            assert_eq!(deed(command), wanted, "{command}");
        }
    }
}
