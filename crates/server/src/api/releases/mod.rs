pub mod give_up;
pub mod go_on;
pub mod list;
pub mod start;
pub mod take_back;
pub mod withdraw;
pub mod worklist;
