pub mod answer;
pub mod go_on;
pub mod list;
pub mod start;
pub mod stop;
pub mod told;
