//! Properties of the core, and what it makes of real documents.

#![allow(clippy::unwrap_used)]

mod by_words;
mod corpus;
mod edits;
mod find_again;
mod habits;
mod html_read;
mod language_words;
mod limits;
mod link_says;
mod links_in_html;
mod markdown_read;
mod names_of_pages;
mod openings_chosen;
mod openings_followed;
mod openings_found;
mod passing;
mod phrase_book;
mod pictures;
mod prose_marks;
mod reach;
mod reasons;
mod rescue;
mod rules;
mod site_figures;
mod support;
mod traces;
mod tray_journey;
mod tray_taken;
