//! How the height of a screen is shared: room goes where there is something to show.

/// How many lines a part of the screen needs at least, and how many it would fill.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Wants {
    pub(super) least: u16,
    pub(super) most: u16,
}

impl Wants {
    /// A part with a line for its name above so many lines.
    pub(super) fn lines(least: u16, lines: usize) -> Self {
        let most = u16::try_from(lines).unwrap_or(u16::MAX).saturating_add(1);
        Self { least, most: most.max(least) }
    }
}

/// Shares a height among parts: first what each needs, as far as it goes, in their order; then a line at a time to all
/// that would fill more; what is over goes to the last.
pub(super) fn shared<const N: usize>(height: u16, wants: [Wants; N]) -> [u16; N] {
    let mut left = height;
    let mut shares = wants.map(|want| {
        let share = want.least.min(left);
        left -= share;
        share
    });
    while left > 0 {
        let before = left;
        for (share, want) in shares.iter_mut().zip(wants) {
            if left > 0 && *share < want.most {
                *share += 1;
                left -= 1;
            }
        }
        if left == before {
            break;
        }
    }
    if let Some(last) = shares.last_mut() {
        *last += left;
    }
    shares
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn what_has_more_to_show_gets_more_room() {
        let wants = [Wants::lines(2, 2), Wants::lines(3, 16), Wants::lines(5, 6), Wants::lines(3, 8)];
        assert_eq!(shared(38, wants), [3, 17, 7, 11], "all of it is shown, and the rest is below the last");
        assert_eq!(shared(21, wants), [3, 6, 7, 5]);
        assert_eq!(shared(9, wants), [2, 3, 4, 0], "the first come first where there is hardly any room");
    }

    proptest! {
        /// All of the height is given away, nobody gets less than they need while others have more than that, and
        /// nobody but the last more than they fill.
        #[test]
        fn a_height_is_shared_out(height in 0..90_u16, parts: [(u16, u8); 4]) {
            let wants = parts.map(|(least, lines)| Wants::lines(least % 7, usize::from(lines % 40)));
            let shares = shared(height, wants);
            prop_assert_eq!(shares.iter().sum::<u16>(), height);
            let needed: u16 = wants.iter().map(|want| want.least).sum();
            let all_have_enough = shares.iter().zip(&wants).all(|(share, want)| *share >= want.least);
            prop_assert_eq!(all_have_enough, height >= needed);
            for (share, want) in shares.iter().zip(&wants).take(3) {
                prop_assert!(*share <= want.most);
            }
            // Two that would both fill more have been given the same number of lines beyond their need, but for one.
            if all_have_enough {
                let hungry: Vec<u16> = shares.iter().zip(&wants).take(3)
                    .filter(|(share, want)| *share < &want.most).map(|(share, want)| share - want.least).collect();
                let (least, most) = (hungry.iter().min(), hungry.iter().max());
                prop_assert!(least.zip(most).is_none_or(|(least, most)| most - least <= 1), "{shares:?} {wants:?}");
            }
        }
    }
}
