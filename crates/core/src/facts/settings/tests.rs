use super::schema::settings_schema;
use super::*;
use crate::text::{FileId, SourceFile};

fn read(text: &str) -> Result<Settings, SettingsError> {
    read_settings(FileId(0), &SourceFile::new("dulk.toml", text))
}

#[test]
fn every_key_of_the_manual_is_read() {
    let settings = read(
        "[forge]\ndefault-branch = \"main\"\nsecrets = [\"KEY\"]\nvariables = []\ntoken = \"read\"\npages = \"branch:gh-pages\"\n\
         [forge.environments.production]\nbranches = [\"main\"]\nsecrets = [\"DEPLOY\"]\n[site]\noutput = \"dist\"\nbase = \"/x/\"\n\
         [rules]\nbranch.absent = \"off\"\n\"order.cycle\" = \"advice\"\n[files]\nskip = [\"templates/**\"]\n",
    )
    .unwrap_or_else(|error| panic!("{error:?}"));
    assert_eq!(settings.forge.secrets.map(|names| names[0].name.clone()).as_deref(), Some("KEY"));
    assert_eq!(settings.forge.environments["production"].branches.as_ref().map(Vec::len), Some(1));
    assert_eq!(settings.rules["branch.absent"], None);
    assert_eq!(settings.rules["order.cycle"], Some(Severity::Advice));
    assert_eq!(settings.files.skip, ["templates/**"]);
}

/// Every key of the schema is taken by the reader, and the reader's lists of known keys are the schema's.
#[test]
fn schema_and_reader_know_the_same_keys() {
    let schema: serde_json::Value = serde_json::from_str(&settings_schema()).unwrap_or_default();
    let keys = |pointer: &str| -> Vec<String> {
        let table = schema.pointer(pointer).and_then(|value| value["properties"].as_object());
        table.unwrap_or_else(|| panic!("{pointer} in {schema:#}")).keys().cloned().collect()
    };
    for (table, pointer) in [
        ("", ""),
        ("forge", "/$defs/Forge"),
        ("forge.environments.x", "/$defs/Environment"),
        ("site", "/$defs/SiteSettings"),
        ("files", "/$defs/FileSettings"),
    ] {
        let header = if table.is_empty() { String::new() } else { format!("[{table}]\n") };
        let refused = read(&format!("{header}zzzzzzzzzzzzzzz = 1\n")).err().map(|error| error.reason).unwrap_or_default();
        let mut known: Vec<&str> = refused.split("known are ").nth(1).unwrap_or_default().split(", ").collect();
        let mut wanted = keys(pointer);
        known.sort_unstable();
        wanted.sort_unstable();
        assert_eq!(known, wanted, "{table}: {refused}");
    }
}

#[test]
fn the_schema_in_the_docs_is_up_to_date() {
    let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/dulk.schema.json");
    if std::env::var_os("DULK_WRITE_DOCS").is_some() {
        std::fs::write(&path, settings_schema()).unwrap_or_else(|error| panic!("{error}"));
    }
    let written = std::fs::read_to_string(&path).unwrap_or_default();
    assert!(written == settings_schema(), "run the tests once with DULK_WRITE_DOCS=1");
}

#[test]
fn a_wrong_key_or_value_is_told_with_its_line_and_the_right_word() {
    for (text, line, part) in [
        ("[forge]\n\nsecret = []", 3, "did you mean secrets?"),
        ("\n[sites]\n", 2, "did you mean site?"),
        ("[forge]\ntoken = \"all\"", 2, "\"read\" or \"write\""),
        ("[forge]\nsecrets = \"KEY\"", 2, "list"),
        ("[forge]\npages = \"branch:\"", 2, "branch:NAME"),
        ("[rules]\nbranch.absnt = \"off\"", 2, "did you mean branch.absent?"),
        ("[rules]\nbranch.absent = \"warn\"", 2, "\"warning\""),
        ("[forge\n", 1, "no TOML"),
    ] {
        let error = read(text).err().unwrap_or_else(|| panic!("{text} is taken"));
        assert_eq!(error.line, line, "{text}: {}", error.reason);
        assert!(error.reason.contains(part), "{text}: {}", error.reason);
    }
}
