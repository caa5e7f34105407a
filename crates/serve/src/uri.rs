//! Addresses of files, `file:///home/…`, and the paths that they stand for.

use std::path::{Path, PathBuf};
use std::str::FromStr;

use lsp_types::Uri;
use percent_encoding::{AsciiSet, CONTROLS, percent_decode_str, utf8_percent_encode};

/// What is no plain part of a path in an address (RFC 3986, `pchar`), slashes left as they are.
const ESCAPED: &AsciiSet = &CONTROLS
    .add(b' ')
    .add(b'"')
    .add(b'#')
    .add(b'%')
    .add(b'<')
    .add(b'>')
    .add(b'?')
    .add(b'[')
    .add(b']')
    .add(b'^')
    .add(b'`')
    .add(b'{')
    .add(b'|')
    .add(b'}')
    .add(b'\\')
    .add(b':');

/// The path of an address; nothing for one that is no file's.
pub fn path_of(uri: &Uri) -> Option<PathBuf> {
    let rest = uri.as_str().strip_prefix("file://")?;
    let path = &rest[rest.find('/')?..];
    let path = percent_decode_str(path).decode_utf8().ok()?;
    // A drive, as in `/c:/site`, begins no path with a slash.
    let bytes = path.as_bytes();
    let drive = bytes.len() > 2 && bytes[1].is_ascii_alphabetic() && bytes[2] == b':';
    Some(PathBuf::from(if drive { &path[1..] } else { &path }))
}

/// The address of a path.
pub fn of_path(path: &Path) -> Option<Uri> {
    let path = path.to_str()?.replace(std::path::MAIN_SEPARATOR, "/");
    let slash = if path.starts_with('/') { "" } else { "/" };
    Uri::from_str(&format!("file://{slash}{}", utf8_percent_encode(&path, ESCAPED))).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paths_come_back() {
        for path in ["/quay/site.yml", "/a b/ü#1/{x}.yml", "/100%/a?.yml"] {
            let uri = of_path(Path::new(path)).expect("an address");
            assert_eq!(path_of(&uri), Some(PathBuf::from(path)), "{}", uri.as_str());
        }
        assert_eq!(of_path(Path::new("/a b")).map(|uri| uri.as_str().to_owned()), Some("file:///a%20b".into()));
        let of = |text: &str| path_of(&Uri::from_str(text).expect("an address"));
        assert_eq!(of("file:///c%3A/site"), Some(PathBuf::from("c:/site")));
        assert_eq!(of("untitled:Untitled-1"), None);
        assert_eq!(of("file://tarnsay.example/share/a"), Some(PathBuf::from("/share/a")));
    }
}
