//! The demo with the interface served by Vite: a change to the interface shows at once, one to the server after a
//! restart of this command.

use crate::demo::{Demo, Options};
use crate::process::end_signal;
use crate::{setup, web};

pub fn run(arguments: &[String]) -> anyhow::Result<()> {
    let options = Options::parse(arguments)?;
    let end = end_signal()?;
    setup::for_running()?;
    web::build()?;
    let mut demo = Demo::start(&options)?;
    demo.begin("Vite", web::npm(&["run", "dev"]).env("STRELM_SERVER", &demo.address.clone()))?;
    println!("\n  The interface with reload is at http://127.0.0.1:4872/\n");
    demo.watch(&end)
}
