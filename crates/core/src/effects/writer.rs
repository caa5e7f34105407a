//! Programs that make files of others.

use super::run::{Call, Run};
use super::sorted::Sorted;
use super::{Effect, Folder, join};
use crate::facts::Reach;
use crate::knowledge::Writer;

impl Run<'_, '_> {
    pub(super) fn writer(&mut self, writer: &'static Writer, call: &Call<'_>) {
        let is_option = |option: &str| [&writer.folder_options, &writer.file_options].iter().any(|list| list.contains(&option));
        let sorted = Sorted::of(&call.words[1..], is_option);
        let mut named: Vec<Folder> = Vec::new();
        for (value, _) in sorted.values(writer.folder_options).chain(sorted.values(writer.file_options)) {
            named.push(value.and_then(|value| join(&call.dir, value)));
        }
        for word in sorted.arguments.iter().filter(|_| writer.pairs) {
            if let Some((_, to)) = word.known().and_then(|word| word.split_once(':')) {
                named.push(join(&call.dir, to));
            }
        }
        // Its own configuration may name another place.
        let configured = writer
            .configs
            .iter()
            .any(|file| join(&call.dir, file).is_none_or(|path| self.scene.facts.has_file(&path) != Some(false)));
        match &writer.output {
            _ if sorted.has(writer.not_with) || !named.is_empty() => {}
            Some(output) if !configured => named.push(join(&call.dir, output)),
            _ => return self.add(Effect::Unknown(Reach::Anything), call.at),
        }
        if sorted.has(writer.not_with) {
            return self.add(Effect::Unknown(Reach::Anything), call.at);
        }
        for path in named {
            self.add(Effect::Write { path }, call.at);
        }
    }
}
