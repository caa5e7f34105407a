use crate::house::House;

#[test]
fn the_healthy_copy_is_silent_and_the_dozen_faults_are_found() {
    let house = House::new(&[]);
    let tour = house.dulk(&["demo", "--keep", "tour"]);
    assert_eq!((tour.code, tour.err.as_str()), (Some(0), ""));
    insta::assert_snapshot!(tour.out);
    assert!(house.dulk_in("tour/healthy", &["--format", "json"]).rules().is_empty());
    assert!(house.dulk_in("tour/healthy_gitlab", &["--format", "json"]).rules().is_empty());
    assert!(house.dulk_in("tour/other_formats", &["--format", "json"]).rules().is_empty());
    assert!(house.dulk_in("tour/faulty_gitlab", &["--format", "json"]).rules().len() >= 12);
    let faulty = house.dulk_in("tour/faulty", &["--format", "json"]);
    assert_eq!(faulty.code, Some(1));
    let mut families: Vec<String> = faulty.rules().iter().filter_map(|rule| Some(rule.split_once('.')?.0.to_owned())).collect();
    assert_eq!(families.len(), 12);
    families.sort();
    families.dedup();
    assert_eq!(families.len(), 10, "{families:?}");
}

#[test]
fn the_demo_is_a_real_git_repository() {
    let house = House::new(&[]);
    house.dulk(&["demo", "--keep", "tour"]);
    for copy in ["healthy", "faulty", "healthy_gitlab", "faulty_gitlab", "other_formats"] {
        let git = |args: &[&str]| {
            let done = std::process::Command::new("git")
                .args(args)
                .current_dir(house.path().join("tour").join(copy))
                .output()
                .expect("git runs");
            assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
            String::from_utf8_lossy(&done.stdout).into_owned()
        };
        assert_eq!(git(&["status", "--porcelain"]), "");
        assert_eq!(git(&["branch", "--format=%(refname:short)"]), "main\nwinter-plan\n");
        git(&["fsck", "--strict"]);
    }
    assert_eq!(house.dulk(&["demo", "--keep", "tour"]).code, Some(2));
}
