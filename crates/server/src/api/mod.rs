//! The HTTP interface: one folder for each resource, one file for each thing that can be done with it.

mod anchors;
mod attachment;
mod decisions;
mod described;
mod destinations;
mod edge;
mod error;
pub mod events;
mod faults;
mod folders;
pub mod guard;
pub mod health;
mod mentions;
mod openings;
mod pages;
mod pictures;
mod reach;
mod readings;
mod releases;
mod rules;
mod sites;
pub use pages::shown;
pub mod state;
mod today;
mod tray;
mod uploads;

pub use described::document;
pub use error::{ApiError, Problem, unreadable_body, unreadable_path, unreadable_query};
pub use state::State;

use utoipa_actix_web::scope;
use utoipa_actix_web::service_config::ServiceConfig;

/// All operations, below `/api`.
pub fn configure(config: &mut ServiceConfig<'_>) {
    config.service(
        scope("/api")
            .service(sites::list::list)
            .service(folders::list::list)
            .service(sites::look::look)
            .service(sites::look::interface::try_interface)
            .service(sites::add::add)
            .service(sites::readiness::readiness)
            .service(sites::show::show)
            .service(sites::settings::settings)
            .service(sites::start_at::start_at)
            .service(sites::set::set)
            .service(sites::limits::show)
            .service(sites::limits::set)
            .service(sites::limits::forget)
            .service(sites::delete::delete)
            .service(today::show::show)
            .service(faults::places::places)
            .service(pages::list::list)
            .service(pages::export::export)
            .service(pages::find::find)
            .service(pages::desk::desk)
            .service(reach::chart::chart)
            .service(reach::hanging::hanging)
            .service(reach::equity::show)
            .service(reach::flow::show)
            .service(reach::page::show)
            .service(reach::rescue::rescue)
            .service(anchors::list::list)
            .service(anchors::places::places)
            .service(destinations::list::list)
            .service(mentions::list::list)
            .service(openings::reasons::reasons)
            .service(openings::around::around)
            .service(openings::bridge::bridges)
            .service(openings::best::best)
            .service(decisions::make::make)
            .service(decisions::turn::undo)
            .service(decisions::turn::redo)
            .service(rules::list::list)
            .service(rules::make::make)
            .service(rules::read_table::read_table)
            .service(rules::export::export)
            .service(rules::propose::propose)
            .service(rules::limits::set)
            .service(rules::switch::switch)
            .service(rules::places::places)
            .service(rules::exceptions::pass)
            .service(rules::change::change)
            .service(edge::show::show)
            .service(edge::set::set)
            .service(edge::render::render)
            .service(tray::show::show)
            .service(tray::export::export)
            .service(releases::start::start)
            .service(releases::list::list)
            .service(releases::take_back::take_back)
            .service(releases::go_on::go_on)
            .service(releases::give_up::give_up)
            .service(releases::withdraw::withdraw)
            .service(releases::worklist::worklist)
            .service(readings::list::list)
            .service(readings::start::start)
            .service(readings::stop::stop)
            .service(readings::go_on::go_on)
            .service(readings::told::told)
            .service(readings::answer::answer)
            .service(events::follow::follow)
            .service(uploads::send::send)
            .service(pictures::show::show),
    );
}
