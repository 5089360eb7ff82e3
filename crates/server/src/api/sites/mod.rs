pub mod list;
pub mod show;
