use super::*;
use proptest::prelude::*;

fn words(script: &str) -> Vec<String> {
    parse(script)
        .commands
        .iter()
        .map(|command| command.words.iter().map(|word| word.text.as_str()).collect::<Vec<_>>().join("|"))
        .collect()
}

#[test]
fn commands_are_split_as_a_shell_splits_them() {
    for (script, expected) in [
        ("npm ci && npm run build # done", vec!["npm|ci", "npm|run|build"]),
        ("a \\\n  b; c | d", vec!["a|b", "c", "d"]),
        ("echo 'a b' \"c d\"e \\ f", vec!["echo|a b|c de| f"]),
        ("(cd x && y) || z", vec!["cd|x", "y", "z"]),
        ("if [ -d x ]; then y; else z; fi", vec!["[|-d|x|]", "y", "z"]),
        ("for f in a b; do\n cp $f x\ndone", vec!["cp|$f|x"]),
        ("case $x in\n a|b) y ;;\n *) z ;;\nesac\nw", vec!["y", "z", "w"]),
        ("f() { a; }\nb", vec!["a", "b"]),
        ("cat <<'E' > out\n not a command\nE\nnext", vec!["cat", "next"]),
        ("echo ${{ matrix.a && 'b' }}/x", vec!["echo|${{ matrix.a && 'b' }}/x"]),
        ("a 2>&1 >/dev/null &\nb", vec!["a", "b"]),
        ("X=1 Y='2 3' run; Z=4", vec!["run", ""]),
        ("((i++)); a $(b; c) `d`", vec!["a|$(b; c)|`d`"]),
        ("a &&\n b", vec!["a", "b"]),
    ] {
        assert_eq!(words(script), expected, "{script}");
        assert!(!parse(script).torn, "{script}");
    }
}

#[test]
fn commands_know_what_stands_before_and_around_them() {
    let script = parse("a && b || c | d\n(e; (f)) ; if x; then g; fi\nh &&\n i");
    let find =
        |name: &str| script.commands.iter().find(|command| command.name() == Some(name)).unwrap_or_else(|| panic!("no {name}"));
    let joins: Vec<Join> = ["a", "b", "c", "d", "e", "i"].iter().map(|name| find(name).join).collect();
    assert_eq!(joins, [Join::Next, Join::And, Join::Or, Join::Pipe, Join::Next, Join::And]);
    assert_eq!((find("e").subshells.len(), find("f").subshells.len(), find("h").subshells.len()), (1, 2, 0));
    assert!(find("g").guarded && !find("h").guarded);
}

#[test]
fn words_say_whether_their_text_is_what_the_command_gets() {
    let script = parse("cp 'a*' b* \"$C\" ~/d --x=${{ y }}");
    let word = |index: usize| &script.commands[0].words[index];
    assert!(!word(1).glob && word(1).quoted && word(1).known() == Some("a*"));
    assert!(word(2).glob);
    assert_eq!(word(3).known(), None);
    assert_eq!(word(4).known(), Some("~/d"));
    assert_eq!(word(5).known(), None);
}

#[test]
fn redirects_name_their_files() {
    let script = parse("echo x >> 'a b' 2> err");
    let shown: Vec<_> =
        script.commands[0].redirects.iter().map(|one| (one.target.text.as_str(), one.writes, one.appends)).collect();
    assert_eq!(shown, [("a b", true, true), ("err", true, false)]);
}

#[test]
fn what_is_never_closed_is_torn_and_the_rest_is_kept() {
    for script in ["a 'b", "a \"b", "a $(b", "a ${{ b", "a )", "if a; then b", "cat <<E\nx"] {
        assert!(parse(script).torn, "{script}");
        assert!(!parse(script).commands.is_empty() || script.starts_with("cat"), "{script}");
    }
    assert!(parse(&"(".repeat(100_000)).torn);
}

proptest! {
    #[test]
    fn any_text_gives_ranges_that_fit(script in "[a-c '\"`$(){}\\[\\]<>|&;\\\\\n#=é\r-]{0,80}") {
        for command in parse(&script).commands {
            prop_assert!(script.get(command.range.clone()).is_some());
            for word in &command.words {
                prop_assert!(script.get(word.range.clone()).is_some());
            }
        }
    }
}
