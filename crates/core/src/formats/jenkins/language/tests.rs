//! What is read of texts, whole and broken.

use super::{Block, Statement, Value, read};

/// A statement in short: its name, how many arguments, and what is in its block.
fn short(statement: &Statement) -> String {
    let block = statement.block.as_ref().map(|block| format!("{{{}}}", all(block))).unwrap_or_default();
    let assigned = if statement.assigned.is_some() { "=" } else { "" };
    let dark = if statement.dark { "?" } else { "" };
    format!("{}{}{assigned}{dark}{block}", statement.name, "'".repeat(statement.arguments.len()))
}

fn all(block: &Block) -> String {
    block.statements.iter().map(short).collect::<Vec<_>>().join(" ")
}

fn shorts(text: &str) -> String {
    all(&read(text).top)
}

#[test]
fn statements_have_arguments_with_and_without_brackets() {
    for (text, expected) in [
        ("agent any", "agent'"),
        ("agent { label 'quay' }", "agent{label'}"),
        ("stage('a') { steps { sh 'b'; echo \"c\" } }", "stage'{steps{sh' echo'}}"),
        ("timeout(time: 20, unit: 'MINUTES')", "timeout''"),
        ("sh label: 'a', script: 'b'", "sh''"),
        ("stash name: 'a',\n  includes: 'b'", "stash''"),
        ("A = 'b'\nB = credentials('c')", "A= B="),
        ("def x = sh(script: 'a', returnStdout: true).trim()", "x="),
        ("if (env.A == 'b') { sh 'c' } else { sh 'd' }", "if'?{sh'}"),
        ("withCredentials([string(credentialsId: 'a', variable: 'B')]) {\n sh 'c'\n}", "withCredentials'{sh'}"),
        ("post\n{\n always { a() }\n}", "post{always{a}}"),
        ("checkout scm", "checkout'"),
        ("sh('a' + \"b\" +\n 'c')", "sh'"),
        ("list.each { x -> echo x }", "list.each{echo'}"),
        ("script { items = [a: 1, b: [2, 3]]; run(items) }", "script{items= run'}"),
        ("x()\n.y()", "x?"),
        ("#!/usr/bin/env groovy\n@Library('a') _\npipeline { }", "? pipeline{}"),
        ("// a { b\n/* c { */ d 'e' // f", "d'"),
    ] {
        assert_eq!(shorts(text), expected, "{text}");
    }
}

/// The text between the quotes of the first argument.
fn inner(text: &str) -> Option<String> {
    let source = read(text);
    match source.top.statements.first()?.first()? {
        Value::Text(quoted) => Some(text[quoted.inner.clone()].to_owned()),
        _ => None,
    }
}

#[test]
fn quotes_of_all_kinds_hold_braces_and_other_quotes() {
    for (text, expected) in [
        ("sh 'it\\'s }'", "it\\'s }"),
        ("sh \"a ${b(\"c }\")} d\"", "a ${b(\"c }\")} d"),
        ("sh '''a\n'b' {\n'''", "a\n'b' {\n"),
        ("sh \"\"\"a \"b\" ${c}\"\"\"", "a \"b\" ${c}"),
        ("sh(/a \\/ b/)", "a \\/ b"),
        ("sh($/a ' \" b/$)", "a ' \" b"),
        ("sh ''", ""),
    ] {
        assert_eq!(inner(text).as_deref(), Some(expected), "{text}");
        assert!(read(text).errors.is_empty(), "{text}");
    }
}

#[test]
fn broken_texts_say_where_and_the_rest_is_read() {
    for (text, at, words) in [
        ("pipeline { agent any", 9, "never closed"),
        ("pipeline { } }", 13, "closes nothing"),
        ("pipeline { sh('a' }", 13, "never closed"),
        ("sh 'a\necho 'b'", 3, "never closed"),
        ("sh '''a", 3, "never closed"),
    ] {
        let source = read(text);
        let (range, reason) = &source.errors[0];
        assert!(range.start == at && reason.contains(words), "{text}: {range:?} {reason}");
    }
    assert_eq!(
        shorts("pipeline { agent any\n stages { stage('a') { steps { sh 'b' } } }"),
        "pipeline{agent' stages{stage'{steps{sh'}}}}"
    );
}

#[test]
fn hostile_texts_come_to_an_end() {
    for text in [
        "{".repeat(10_000),
        "a(".repeat(10_000),
        "a [".repeat(10_000),
        "a { ".repeat(2_000),
        format!("sh '''{}", "x".repeat(100_000)),
        "sh \"${".repeat(5_000),
        "}".repeat(1_000),
        "a = ".repeat(5_000),
        "a.b ".repeat(5_000),
        "$/ / ".repeat(5_000),
        "'".repeat(5_001),
        "é'é\"é".repeat(500),
    ] {
        let source = read(&text);
        assert!(source.top.range.end == text.len());
    }
}
