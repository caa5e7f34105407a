//! The conversation: messages in their order, what may be said when, and the checks in between.

use std::collections::VecDeque;
use std::time::{Duration, Instant};

use crossbeam_channel::{Receiver, RecvTimeoutError, Sender};
use dulk_core::knowledge::Date;
use lsp_server::{ErrorCode, Message, Notification, Request};
use serde::de::DeserializeOwned;
use serde_json::{Value, json};

use crate::Ended;
use crate::session::{Fault, Session};
use crate::wire::{self, Incoming};

/// So often it is looked whether git has other branches while nobody asks for anything.
const LOOK_AT_GIT_EVERY: Duration = Duration::from_secs(2);

/// The server of one client.
pub struct Server {
    heard: Receiver<Incoming>,
    say: Sender<Value>,
    /// What has been heard and not yet dealt with.
    queue: VecDeque<Incoming>,
    today: Date,
    stage: Stage,
    last_look: Instant,
}

enum Stage {
    /// Nobody has presented himself.
    Waiting,
    /// Serving.
    Open(Box<Session>),
    /// Only good-bye is left to say.
    Closed,
}

impl Server {
    /// For what is heard, and for what is said.
    pub fn new(heard: Receiver<Incoming>, say: Sender<Value>, today: Date) -> Self {
        Self { heard, say, queue: VecDeque::new(), today, stage: Stage::Waiting, last_look: Instant::now() }
    }

    /// Serves until the client goes.
    pub fn run(mut self) -> Ended {
        loop {
            match self.next() {
                Next::Incoming(Incoming::Wrong(code, why, id)) => self.send(wire::answer(id, Err((code, why)))),
                Next::Incoming(Incoming::Message(Message::Request(request))) => self.request(request),
                Next::Incoming(Incoming::Message(Message::Notification(notification))) if notification.method == "exit" => {
                    return if matches!(self.stage, Stage::Closed) { Ended::Well } else { Ended::Lost };
                }
                Next::Incoming(Incoming::Message(Message::Notification(notification))) => self.notification(notification),
                // Nothing hangs on what is answered to our own requests.
                Next::Incoming(Incoming::Message(Message::Response(_))) => {}
                Next::Quiet => self.look_around(),
                Next::End => return if matches!(self.stage, Stage::Closed) { Ended::Well } else { Ended::Lost },
            }
        }
    }

    fn send(&self, message: Value) {
        // A writer that is gone means a client that is gone, which the reader tells.
        let _ = self.say.send(message);
    }

    /// The next thing to deal with. As long as nothing is heard, what has changed is checked.
    fn next(&mut self) -> Next {
        loop {
            while let Ok(incoming) = self.heard.try_recv() {
                self.hear(incoming);
            }
            if let Some(incoming) = self.queue.pop_front() {
                return Next::Incoming(incoming);
            }
            let (heard, say) = (&self.heard, &self.say);
            let is_done = match &mut self.stage {
                Stage::Open(session) => session.tell(&|| !heard.is_empty(), say),
                _ => true,
            };
            if !is_done {
                continue;
            }
            match self.heard.recv_timeout(LOOK_AT_GIT_EVERY) {
                Ok(incoming) => self.hear(incoming),
                Err(RecvTimeoutError::Timeout) => return Next::Quiet,
                Err(RecvTimeoutError::Disconnected) => return Next::End,
            }
        }
    }

    /// Puts something at the end of the queue; a request that is called off leaves it.
    fn hear(&mut self, incoming: Incoming) {
        let Incoming::Message(Message::Notification(notification)) = &incoming else {
            self.queue.push_back(incoming);
            return;
        };
        if notification.method != "$/cancelRequest" {
            self.queue.push_back(incoming);
            return;
        }
        let id = notification.params.get("id").cloned().unwrap_or_default();
        let is_it = |waiting: &Incoming| match waiting {
            Incoming::Message(Message::Request(request)) => json!(request.id) == id,
            _ => false,
        };
        if let Some(index) = self.queue.iter().position(is_it) {
            self.queue.remove(index);
            self.send(wire::answer(id, Err((ErrorCode::RequestCanceled, "it was called off".into()))));
        }
    }

    fn look_around(&mut self) {
        if let Stage::Open(session) = &mut self.stage {
            session.look_at_git();
        }
        self.last_look = Instant::now();
    }

    fn request(&mut self, request: Request) {
        let id = json!(request.id);
        let result = self.answer(&request.method, request.params);
        self.send(wire::answer(id, result.map_err(|fault| (fault.code, fault.message))));
    }

    fn answer(&mut self, method: &str, params: Value) -> Result<Value, Fault> {
        match (&mut self.stage, method) {
            (Stage::Waiting, "initialize") => {
                if !params.get("capabilities").is_some_and(Value::is_object) {
                    return Err(Fault::new(ErrorCode::InvalidParams, "initialize says what the client can do: `capabilities`"));
                }
                let session = Session::new(&params, self.today);
                let capabilities = session.capabilities();
                self.stage = Stage::Open(Box::new(session));
                Ok(capabilities)
            }
            (Stage::Waiting, _) => Err(Fault::new(ErrorCode::ServerNotInitialized, "initialize comes first")),
            (Stage::Closed, _) => Err(Fault::new(ErrorCode::InvalidRequest, "after shutdown there is only exit")),
            (Stage::Open(_), "initialize") => Err(Fault::new(ErrorCode::InvalidRequest, "initialize comes once")),
            (Stage::Open(_), "shutdown") => {
                self.stage = Stage::Closed;
                Ok(Value::Null)
            }
            (Stage::Open(session), _) => session.answer(method, params, &self.say),
        }
    }

    fn notification(&mut self, notification: Notification) {
        let Stage::Open(session) = &mut self.stage else { return };
        // A notification has no answer, so that one which cannot be read is passed over.
        let _ = session.notice(&notification.method, notification.params, &self.say);
        // Somebody who never stops typing changes branches all the same.
        if self.last_look.elapsed() > LOOK_AT_GIT_EVERY * 5 {
            self.look_around();
        }
    }
}

enum Next {
    Incoming(Incoming),
    /// Nothing was heard for a while.
    Quiet,
    /// The client is gone.
    End,
}

/// The parameters of a message.
pub fn read<P: DeserializeOwned>(params: Value) -> Result<P, Fault> {
    serde_json::from_value(params).map_err(|error| Fault::new(ErrorCode::InvalidParams, error.to_string()))
}
