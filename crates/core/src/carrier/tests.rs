use super::*;
use crate::text::SourceFile;
use proptest::prelude::*;

fn value_at(tree: &Tree, path: &[&str]) -> NodeId {
    path.iter().fold(tree.documents[0], |node, key| tree.value(node, key).unwrap_or_else(|| panic!("no {key}")))
}

#[test]
fn spans_hold_the_bytes_as_they_are_written() {
    let source =
        "\u{feff}name: \"é x\"\r\non: {push: [ä, 'b']}\r\njobs:\r\n  a:\r\n    run: |\r\n      one\r\n        two\r\n  b: 1\r\n";
    let tree = parse(source);
    let slice = |path: &[&str]| &source[tree.node(value_at(&tree, path)).span.range()];
    assert_eq!(slice(&["name"]), "\"é x\"");
    assert_eq!(slice(&["on", "push"]), "[ä, 'b']");
    assert_eq!(slice(&["jobs", "a", "run"]), "one\r\n        two\r\n");
    assert_eq!(slice(&["jobs", "b"]), "1");
    assert!(tree.is_whole());
}

#[test]
fn a_place_inside_a_block_scalar_is_a_place_in_the_file() {
    let source = "run: |\r\n\r\n  echo one\r\n    && two\r\nfold: >-\r\n  a b\r\n  c\r\nq: \"x\\ty\\u0041z\"\r\ns: 'it''s'\r\n";
    let tree = parse(source);
    for (key, word) in [("run", "echo"), ("run", "two"), ("fold", "c"), ("q", "z"), ("s", "s")] {
        let id = value_at(&tree, &[key]);
        let value = tree.scalar(id).unwrap_or_default();
        let from = value.rfind(word).unwrap_or_else(|| panic!("no {word} in {value:?}"));
        assert_eq!(&source[tree.offsets(id).span(from..from + word.len()).range()], word, "{key}");
    }
}

#[test]
fn what_anchors_copy_has_a_limit() {
    let mut bomb = String::from("a0: &a0 [x]\n");
    for level in 1..30 {
        bomb += &format!("a{level}: &a{level} [*a{}, *a{}]\n", level - 1, level - 1);
    }
    let tree = parse(&bomb);
    assert!(tree.too_large.is_some() && !tree.is_whole());
    assert!(tree.documents.iter().map(|root| tree.weigh(*root)).sum::<usize>() < 200_000);
    // Many short names for little are no bomb.
    let many = "a: &a [x]\nb:\n".to_owned() + &"- *a\n".repeat(40_000);
    let tree = parse(&many);
    assert!(tree.is_whole());
    let last = *tree.items(value_at(&tree, &["b"])).last().expect("there are many");
    assert_eq!(tree.items(last).len(), 1);
    let inside = parse("a: &a [*a]\n");
    assert_eq!(inside.items(value_at(&inside, &["a"])).len(), 1);
}

#[test]
fn a_long_text_weighs_more_than_a_short_one() {
    let text = |times: usize| format!("a: &a \"{}\"\nb: [{}]\n", "x".repeat(32_000), "*a, ".repeat(times));
    assert!(parse(&text(90)).is_whole());
    assert!(!parse(&text(110)).is_whole());
}

#[test]
fn errors_are_told_in_plain_words_at_their_place() {
    for (source, line, part) in [
        ("a: 1\n\tb: 2\n", 2, "tab"),
        ("a: \"x\nb: 1\n", 1, "quote"),
        ("a: [1, 2\nb: 1\n", 1, "closed"),
        ("a: b: c\n", 1, "`: `"),
        ("a:\n  b: 1\n c: 2\n", 3, "indentation"),
        ("a: *x\n", 1, "needs quotes"),
        ("x: {{ matrix.a }} b\n", 1, "{{"),
    ] {
        let tree = parse(source);
        let error = tree.errors.first().unwrap_or_else(|| panic!("{source:?} is read"));
        let file = SourceFile::new("x", source);
        assert!(error.reason.contains(part), "{source:?}: {}", error.reason);
        assert_eq!(file.position(error.span.start).line, line, "{source:?}: {}", error.reason);
    }
}

#[test]
fn hostile_texts_end_in_an_error_not_in_a_crash() {
    for source in ["[".repeat(10_000), "a: ".repeat(10_000), "- ".repeat(10_000), "{a: ".repeat(5_000)] {
        assert!(!parse(&source).is_whole());
    }
    let comments = format!("a:\n{}  - b\n", "  # c\n".repeat(5_000));
    assert!(parse(&comments).is_whole());
    assert_eq!(parse(&comments).comments.len(), 5_000);
}

#[test]
fn repeated_keys_and_absent_values_are_kept() {
    let tree = parse("a: 1\na: 2\nb:\n");
    assert_eq!(tree.pairs(tree.documents[0]).len(), 3);
    assert!(tree.is_null(value_at(&tree, &["b"])));
}

/// JSON is read by the same carrier, with its own indentation and escapes, and every value has its own bytes.
#[test]
fn json_is_read_with_exact_places() {
    let source = "{\n\t\"steps\": [\n\t\t{\"args\": [\"-c\", \"echo \\\"quay\\\" \\/ \\u00e9\"], \"wait\": true, \"n\": 1.5e3}\n\t],\n\t\"none\": null\n}\n";
    let tree = parse(source);
    assert!(tree.is_whole(), "{:?}", tree.errors);
    let root = tree.documents[0];
    let step = tree.items(tree.value(root, "steps").expect("steps"))[0];
    let args = tree.items(tree.value(step, "args").expect("args"));
    assert_eq!(tree.scalar(args[1]), Some("echo \"quay\" / é"));
    let map = tree.offsets(args[1]);
    assert_eq!(&source[map.span(6..10).range()], "quay");
    assert_eq!(&source[tree.node(args[0]).span.range()], "\"-c\"");
    assert!(tree.is_null(tree.value(root, "none").expect("none")));
    let number = tree.value(step, "n").expect("n");
    assert_eq!((tree.scalar(number), &source[tree.node(number).span.range()]), (Some("1.5e3"), "1.5e3"));
}

#[test]
fn a_tree_outlives_its_text() {
    let tree = {
        let source = String::from("a: 'it''s'\nb: quay\n");
        parse(&source)
    };
    let root = tree.documents[0];
    assert_eq!(tree.value(root, "a").and_then(|node| tree.scalar(node)), Some("it's"));
    assert_eq!(tree.value(root, "b").and_then(|node| tree.scalar(node)), Some("quay"));
}

proptest! {
    /// Whatever the text, every span fits it, and every single-line plain scalar is its own slice.
    #[test]
    fn spans_fit_any_text(source in "[a-z:\\- \n\t\"'{}\\[\\]#|>&*!éä\r]{0,120}") {
        let tree = parse(&source);
        for node in &tree.nodes {
            prop_assert!(source.get(node.span.range()).is_some(), "{node:?}");
            if let Kind::Scalar(_, Style::Plain) = &node.kind
                && !source[node.span.range()].contains(['\n', '\r'])
            {
                prop_assert_eq!(&source[node.span.range()], tree.value_of(node));
            }
        }
    }
}
