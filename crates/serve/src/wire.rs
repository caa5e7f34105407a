//! Messages on the wire, as the protocol's base part says: a header with the length in bytes, and that many bytes of JSON.
//!
//! Reading is our own, as whoever reads must survive every other program: a length that lies takes no memory, text that is no message is
//! answered, and the next header is looked for where one is broken.

use std::io::{BufRead, Read, Write};

use crossbeam_channel::{Receiver, Sender};
use lsp_server::{ErrorCode, Message};
use serde_json::{Value, json};

/// No message is longer, in bytes: more than any document that an editor opens.
const LONGEST: u64 = 256 << 20;
/// No line of a header is longer, in bytes.
const LONGEST_LINE: u64 = 4096;

/// What comes in.
#[derive(Debug)]
pub enum Incoming {
    /// A message.
    Message(Message),
    /// Something that is none: the protocol's error for it, in words, and the id where one could be read.
    Wrong(ErrorCode, String, Value),
}

/// Reads until the other side closes the pipe.
pub fn read_all(mut input: impl BufRead, out: &Sender<Incoming>) {
    loop {
        let incoming = match header(&mut input) {
            Ok(Some(Header::Length(length))) => match body(&mut input, length) {
                Some(bytes) => message(&bytes),
                None => return,
            },
            Ok(Some(Header::Wrong(why))) => Incoming::Wrong(ErrorCode::ParseError, why, Value::Null),
            Ok(None) | Err(_) => return,
        };
        if out.send(incoming).is_err() {
            return;
        }
    }
}

enum Header {
    /// So many bytes follow.
    Length(u64),
    /// It is none; what follows is looked at anew.
    Wrong(String),
}

/// The next header; nothing at the end of the input. Lines that are no part of one are passed over.
fn header(input: &mut impl BufRead) -> std::io::Result<Option<Header>> {
    let mut length: Option<Result<u64, String>> = None;
    let mut stray = false;
    loop {
        let mut line = Vec::new();
        if input.by_ref().take(LONGEST_LINE).read_until(b'\n', &mut line)? == 0 {
            return Ok(None);
        }
        let line = String::from_utf8_lossy(&line);
        let line = line.trim_end_matches(['\r', '\n']);
        match (line.split_once(':'), &length) {
            _ if line.is_empty() && stray && length.is_none() => {
                return Ok(Some(Header::Wrong("a header without Content-Length".into())));
            }
            _ if line.is_empty() && length.is_none() => {}
            (None, Some(Ok(length))) if line.is_empty() && *length <= LONGEST => return Ok(Some(Header::Length(*length))),
            (None, Some(Ok(length))) if line.is_empty() => {
                return Ok(Some(Header::Wrong(format!("a message of {length} bytes is too long"))));
            }
            (None, Some(Err(why))) if line.is_empty() => return Ok(Some(Header::Wrong(why.clone()))),
            (Some((name, value)), _) if name.trim().eq_ignore_ascii_case("content-length") => {
                let value = value.trim();
                length = Some(value.parse().map_err(|_| "Content-Length is no number of bytes".to_owned()));
            }
            _ => stray = true,
        }
    }
}

/// So many bytes, taken as they come; nothing where the input ends before.
fn body(input: &mut impl BufRead, length: u64) -> Option<Vec<u8>> {
    let mut bytes = Vec::new();
    let read = input.by_ref().take(length).read_to_end(&mut bytes).ok()?;
    (read as u64 == length).then_some(bytes)
}

fn message(bytes: &[u8]) -> Incoming {
    let value: Value = match serde_json::from_slice(bytes) {
        Ok(value) => value,
        Err(error) => return Incoming::Wrong(ErrorCode::ParseError, format!("this is no JSON: {error}"), Value::Null),
    };
    let id = value.get("id").filter(|id| id.is_string() || id.is_number()).cloned().unwrap_or_default();
    match serde_json::from_value(value) {
        Ok(message) => Incoming::Message(message),
        Err(_) => Incoming::Wrong(ErrorCode::InvalidRequest, "this is no request, answer or notification".into(), id),
    }
}

/// Writes what comes until nobody sends any more, or nobody reads.
pub fn write_all(mut output: impl Write, messages: &Receiver<Value>) {
    for message in messages {
        let text = message.to_string();
        let sent = write!(output, "Content-Length: {}\r\n\r\n{text}", text.len()).and_then(|()| output.flush());
        if sent.is_err() {
            return;
        }
    }
}

/// An answer.
pub fn answer(id: Value, result: Result<Value, (ErrorCode, String)>) -> Value {
    match result {
        Ok(result) => of_members([("id", id), ("result", result)]),
        Err((code, why)) => of_members([("id", id), ("error", json!({"code": code as i32, "message": why}))]),
    }
}

/// A message of some members; a large one is moved and not written twice.
fn of_members<const N: usize>(members: [(&str, Value); N]) -> Value {
    let version = ("jsonrpc", Value::from("2.0"));
    [version].into_iter().chain(members).map(|(name, value)| (name.to_owned(), value)).collect()
}

/// A notification.
pub fn notification(method: &str, params: Value) -> Value {
    of_members([("method", method.into()), ("params", params)])
}

/// A request of ours; nothing hangs on what the client answers.
pub fn request(id: &str, method: &str, params: Value) -> Value {
    of_members([("id", id.into()), ("method", method.into()), ("params", params)])
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> Vec<String> {
        let (sender, receiver) = crossbeam_channel::unbounded();
        read_all(text.as_bytes(), &sender);
        drop(sender);
        let told = |incoming| match incoming {
            Incoming::Message(Message::Request(request)) => format!("request {}", request.method),
            Incoming::Message(Message::Notification(notification)) => format!("notification {}", notification.method),
            Incoming::Message(Message::Response(response)) => format!("answer {}", response.id),
            Incoming::Wrong(code, why, id) => format!("{} {id} {why}", code as i32),
        };
        receiver.into_iter().map(told).collect()
    }

    fn framed(body: &str) -> String {
        format!("Content-Length: {}\r\n\r\n{body}", body.len())
    }

    #[test]
    fn what_is_no_message_is_told_and_the_next_one_is_read() {
        let good = framed(r#"{"jsonrpc":"2.0","id":1,"method":"a"}"#);
        let text = [
            framed("{no json"),
            framed(r#"{"jsonrpc":"2.0","id":7}"#),
            framed("[]"),
            "Content-Length: many\r\n\r\n".to_owned(),
            "Content-Length: 99999999999999\r\n\r\n".to_owned(),
            "Content-Type: x\r\n\r\n".to_owned(),
            good.clone(),
            framed(r#"{"method":"b"}"#),
        ];
        let told = read(&text.concat());
        assert_eq!(told.len(), 8, "{told:#?}");
        assert!(told[0].starts_with("-32700 null"));
        assert!(told[1].starts_with("-32600 7"));
        assert!(told[2].starts_with("-32600 null"));
        assert!(told[3..6].iter().all(|one| one.starts_with("-32700")), "{told:#?}");
        assert_eq!(told[6..], ["request a", "notification b"]);
    }

    #[test]
    fn a_message_that_is_cut_ends_the_reading_without_taking_memory() {
        assert!(read("Content-Length: 200000000\r\n\r\n{").is_empty());
        assert!(read("Content-Le").is_empty());
        // A length that is too short: what is left of the text is passed over, up to the next header.
        let told = read(&format!("Content-Length: 3\r\n\r\n{{}}\nnoise\r\n{}", framed(r#"{"method":"b"}"#)));
        assert_eq!(told.last().map(String::as_str), Some("notification b"), "{told:#?}");
    }
}
