pub mod add;
pub mod delete;
pub mod house_rules;
pub mod list;
mod listed;
pub mod look;
pub mod set;
pub mod settings;
pub mod show;
