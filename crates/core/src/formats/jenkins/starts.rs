//! What starts a pipeline: the clock where the file says so; pushes as the project on the server says.
//!
//! After the page "Pipeline syntax", triggers, 2026-11: `cron` takes a text of lines, the first of which may be a time zone.

use super::language::Block;
use super::text::Words;
use crate::model::{Event, Pipeline, StartsFrom, Text, Trigger};

/// Reads `triggers`, and says what is not known.
pub(super) fn read(words: Words<'_>, pipeline: &mut Pipeline, body: &Block) {
    pipeline.starts_from = StartsFrom::Unknown(
        "which branches the project on the server builds, and on which events, stands in no file here".into(),
    );
    let Some(triggers) = body.block("triggers") else { return };
    for trigger in triggers.all("cron") {
        let text = trigger.first().and_then(|value| words.value(value));
        if text.is_some_and(|text| text.value.lines().any(is_time)) {
            let name = Text::fixed("cron", words.at(&trigger.name_at));
            pipeline.triggers.push(Trigger::plain(Event::Clock, name));
        }
    }
}

/// Whether a line names a time, rather than a zone or nothing.
fn is_time(line: &str) -> bool {
    let line = line.trim();
    !line.is_empty() && !line.starts_with("TZ=") && !line.starts_with('#')
}
