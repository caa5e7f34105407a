//! Files that the program writes for people.

use std::path::Path;

use dulk_gather::replace;

/// Writes a file, named from a folder, whole or not at all.
///
/// # Errors
/// When it cannot be written.
pub fn write(folder: &Path, file: &Path, text: &str) -> anyhow::Result<()> {
    replace(&folder.join(file), text).map_err(|reason| anyhow::anyhow!("{} cannot be written: {reason}", file.display()))
}
