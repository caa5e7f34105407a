//! Tests of the reader.
