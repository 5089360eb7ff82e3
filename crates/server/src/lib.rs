//! The `strelm` program: the server, the worker and the command line.

pub mod api;
pub mod backup;
pub mod command;
pub mod config;
mod edits;
mod interface;
pub mod jobs;
pub mod live;
mod new_site;
mod openings;
pub mod secrets;
pub mod serve;
pub mod survey;
mod uploads;
mod words;
