//! What is unlike the last batch, as far as chance and seasons do not make it.
//!
//! Months differ: prices rise, people come and go, summer is warmer. Each comparison asks for a difference that
//! those seldom make, and for enough records to see it.

use hashbrown::HashMap;

use crate::unlike::UnlikeField;
use crate::{
    BatchMemory, FieldMemory, Held, MomentMemory, NumberMemory, PairMemory, Sample, TextMemory, Unlike,
    percent,
};

/// How many values at least are compared with one another.
const ENOUGH: u64 = 25;

/// Minutes of a day.
const DAY: i64 = 1_440;

impl BatchMemory {
    /// What of a run, which is remembered like this and had this sample, is unlike this batch.
    pub fn unlike(&self, now: &Self, sample: &Sample) -> Vec<Unlike> {
        let mut found = Vec::new();
        if self.rows >= 4 * ENOUGH && now.rows * 4 <= self.rows {
            found.push(Unlike::FewRows { rows: [now.rows, self.rows] });
        }
        found.extend(self.rows_again(sample));
        if self.encoding != now.encoding && self.has_accents() && now.has_accents() {
            found.push(Unlike::Encoding { encodings: [now.encoding.clone(), self.encoding.clone()] });
        }
        let exchanged = self.exchanged(now);
        let is_explained = |field: &str| exchanged.iter().any(|pair| pair.iter().any(|one| one == field));
        for (place, field) in now.fields.iter().enumerate() {
            if let Some(before) = self.field(&field.field).filter(|_| !is_explained(&field.field)) {
                found.extend(unlike_field(before, field, (self.day, now.day), (sample, place)));
            }
        }
        found.extend(self.orders(now).filter(|order| match order {
            Unlike::Order { fields, .. } => !exchanged.contains(fields),
            _ => true,
        }));
        found.extend(exchanged.into_iter().map(|fields| Unlike::Exchanged { fields }));
        found
    }

    /// Rows that were in the sample of this batch, as they are written.
    fn rows_again(&self, sample: &Sample) -> Option<Unlike> {
        let known = sample.records().filter_map(|record| Some((record.row, self.had_row(record.hash)?)));
        let of = known.clone().count() as u64;
        let again = known.filter(|(_, had)| *had).map(|(row, _)| row);
        let (count, first) = (again.clone().count() as u64, again.min());
        (count >= 3 && count * 20 >= of).then_some(Unlike::RowsAgain { again: count, of, first })
    }

    fn has_accents(&self) -> bool {
        self.fields.iter().filter_map(|field| field.texts.as_ref()).any(|texts| texts.accented > 0)
    }

    /// Pairs of fields each of which has the values that the other had.
    fn exchanged(&self, now: &Self) -> Vec<[String; 2]> {
        let mut found = Vec::new();
        for (place, one) in now.fields.iter().enumerate() {
            for other in now.fields.iter().skip(place + 1) {
                let before = self.field(&one.field).zip(self.field(&other.field));
                if before.is_some_and(|before| are_exchanged(before, (one, other))) {
                    found.push([one.field.clone(), other.field.clone()]);
                }
            }
        }
        found
    }

    /// Pairs of which one is the smaller value now and the other was.
    fn orders<'m>(&'m self, now: &'m Self) -> impl Iterator<Item = Unlike> + 'm {
        now.pairs.iter().filter_map(|pair| {
            let before = self.pairs.iter().find(|before| before.fields == pair.fields)?;
            let less = [pair, before].map(|pair| percent(pair.less, pair.less + pair.greater));
            let enough = |pair: &PairMemory| pair.less + pair.greater >= ENOUGH;
            let turned = less[0].abs_diff(less[1]) >= 30 && (less[0] > 50) != (less[1] > 50);
            let always_held =
                [(before.less, pair.less), (before.greater, pair.greater)].iter().any(|(never, now)| {
                    *never == 0 && before.of() >= 2 * ENOUGH && *now >= 4 && now * 20 >= pair.of()
                });
            (enough(pair) && enough(before) && (turned || always_held))
                .then(|| Unlike::Order { fields: pair.fields.clone(), less })
        })
    }
}

/// How far two amounts are apart: nothing of nothing, a hundred of all.
fn distance(one: &FieldMemory, other: &FieldMemory) -> Option<u64> {
    match (&one.texts, &other.texts, &one.numbers, &other.numbers) {
        (Some(one), Some(other), _, _) => one.distance(other),
        (_, _, Some(one), Some(other)) => one.distance(other),
        _ => None,
    }
}

/// Whether each of two fields is far from what it was, and near what the other was.
fn are_exchanged(before: (&FieldMemory, &FieldMemory), now: (&FieldMemory, &FieldMemory)) -> bool {
    let own = distance(before.0, now.0).zip(distance(before.1, now.1));
    let crossed = distance(before.1, now.0).zip(distance(before.0, now.1));
    let (Some(own), Some(crossed)) = (own, crossed) else { return false };
    let apart = own.0 + own.1;
    let near = crossed.0 + crossed.1;
    apart >= 80 && near + 40 <= apart && crossed.0 < own.0 && crossed.1 < own.1
}

/// What of a field is unlike what it was.
fn unlike_field(
    before: &FieldMemory,
    now: &FieldMemory,
    days: (i64, i64),
    (sample, place): (&Sample, usize),
) -> Vec<Unlike> {
    let mut found = Vec::new();
    let shares = [now, before].map(|field| percent(field.wrong, field.of));
    if now.of >= ENOUGH && before.of >= ENOUGH && shares[0] > shares[1] * 2 + 10 {
        found.push((UnlikeField::Wrong(shares), sample.first_row(place, |held| held == Held::Wrong)));
    }
    if let (Some(before), Some(now)) = (&before.numbers, &now.numbers)
        && before.mark != now.mark
        && [before, now].iter().all(|numbers| numbers.count >= ENOUGH && numbers.with_more_decimals(0) > 0)
    {
        found.push((UnlikeField::Mark([now.mark, before.mark]), None));
    }
    if let (Some(before), Some(now)) = (&before.numbers, &now.numbers) {
        found.extend(before.unlike(now, (sample, place)));
    }
    if let (Some(before), Some(now)) = (&before.moments, &now.moments) {
        found.extend(before.unlike(now, days, (sample, place)));
    }
    if let (Some(before), Some(now)) = (&before.texts, &now.texts) {
        found.extend(before.unlike(now).map(|what| (what, None)));
    }
    let field = &now.field;
    found.into_iter().map(|(what, first)| Unlike::Field { field: field.clone(), what, first }).collect()
}

impl NumberMemory {
    fn unlike(&self, now: &Self, (sample, place): (&Sample, usize)) -> Option<(UnlikeField, Option<u64>)> {
        if self.count < ENOUGH || now.count < ENOUGH {
            return None;
        }
        if self.is_mirrored(now) {
            let signs = [now, self].map(|numbers| percent(numbers.below_zero, numbers.count));
            return Some((UnlikeField::Signs(signs), None));
        }
        if self.is_of_another_size(now) {
            let (low, high) = (self.quarters[0], self.quarters[4]);
            let outside =
                |held: Held| matches!(held, Held::Number(number, _) if number < low || number > high);
            let sizes = [now.quarters[2], self.quarters[2]];
            return Some((UnlikeField::Size(sizes), sample.first_row(place, outside)));
        }
        if let Some(found) = self.beyond(now, (sample, place)) {
            return Some(found);
        }
        // One decimal more may be another price; two are another way of measuring.
        let had = (0..self.decimals.len()).find(|than| self.with_more_decimals(*than) * 50 <= self.count)?;
        let is_finer = now.with_more_decimals(had + 1) * 2 >= now.count;
        let more = [now, self].map(|numbers| percent(numbers.with_more_decimals(had), numbers.count));
        let has_more = |held: Held| matches!(held, Held::Number(_, decimals) if usize::from(decimals) > had);
        is_finer.then(|| (UnlikeField::Decimals { had, more }, sample.first_row(place, has_more)))
    }

    /// Whether the numbers lie as the former ones would below zero what they were above it.
    fn is_mirrored(&self, now: &Self) -> bool {
        let signs =
            [now, self].map(|numbers| percent(numbers.below_zero, numbers.below_zero + numbers.above_zero));
        let enough = [now, self].iter().all(|numbers| numbers.below_zero + numbers.above_zero >= ENOUGH);
        let sum = |differences: &mut dyn Iterator<Item = i128>| differences.map(i128::abs).sum::<i128>();
        let (is, was) = (now.quarters.map(i128::from), self.quarters.map(i128::from));
        let same = sum(&mut is.iter().zip(was).map(|(is, was)| is - was));
        let mirrored = sum(&mut is.iter().zip(was.iter().rev()).map(|(is, was)| is + was));
        enough && signs[0].abs_diff(signs[1]) >= 20 && mirrored * 2 < same
    }

    /// A part of the numbers lies beyond all that there were.
    fn beyond(&self, now: &Self, (sample, place): (&Sample, usize)) -> Option<(UnlikeField, Option<u64>)> {
        let [least, low, _, high, greatest] = self.quarters;
        // What grows a little from month to month goes on growing.
        let room = high.saturating_sub(low) / 10;
        let (least, greatest) = (least.saturating_sub(room), greatest.saturating_add(room));
        let is_beyond =
            |held: Held| matches!(held, Held::Number(number, _) if number < least || number > greatest);
        let count = sample.held(place).filter(|held| is_beyond(*held)).count() as u64;
        let share = percent(count, now.count);
        (20..=95).contains(&share).then(|| (UnlikeField::Beyond(share), sample.first_row(place, is_beyond)))
    }

    /// Whether all quarters are larger or smaller by about the same factor, which is more than seasons make.
    fn is_of_another_size(&self, now: &Self) -> bool {
        // Tenths of a thousand: 10,000 is once.
        let ratio = |quarter: usize| {
            let (now, before) = (now.quarters.get(quarter)?, self.quarters.get(quarter)?);
            (i128::from(*now) * 10_000).checked_div(i128::from(*before)).filter(|ratio| *ratio > 0)
        };
        let inner = [ratio(1), ratio(2), ratio(3)];
        let beyond = match inner {
            [Some(low), Some(middle), Some(high)] => {
                let is_near = |one: i128| one * 10 >= middle * 6 && one * 6 <= middle * 10;
                (middle >= 17_500 || middle <= 5_700) && is_near(low) && is_near(high)
            }
            _ => false,
        };
        let [least, low, middle, high, greatest] = self.quarters.map(i128::from);
        let moved = i128::from(now.quarters[2]);
        let elsewhere = i128::from(now.quarters[1]) > greatest + (high - low)
            || i128::from(now.quarters[3]) < least - (high - low);
        elsewhere || beyond && (moved > high || moved < low) && middle != 0
    }

    /// How little the middle halves of two columns of numbers have in common, of a hundred.
    fn distance(&self, other: &Self) -> Option<u64> {
        if self.count < ENOUGH || other.count < ENOUGH {
            return None;
        }
        let apart = |one: &Self, other: &Self| {
            let [_, low, _, high, _] = one.quarters;
            let middle = other.quarters[2];
            let width = i128::from(high) - i128::from(low);
            let beyond =
                (i128::from(low) - i128::from(middle)).max(i128::from(middle) - i128::from(high)).max(0);
            let share = (beyond * 100).checked_div(width.max(1)).unwrap_or(0);
            u64::try_from(share.min(100)).unwrap_or(100)
        };
        Some((apart(self, other) + apart(other, self)) / 2)
    }
}

impl MomentMemory {
    fn unlike(
        &self,
        now: &Self,
        (day_before, day): (i64, i64),
        (sample, place): (&Sample, usize),
    ) -> Option<(UnlikeField, Option<u64>)> {
        if self.count < ENOUGH || now.count < ENOUGH {
            return None;
        }
        let days = |moments: &Self| moments.quarters.map(|minutes| minutes.div_euclid(DAY));
        let ([first, low, middle, high, last], is) = (days(self), days(now));
        // Times of day move by hours at most.
        let width = (high - low).max(10);
        let shift = day - day_before;
        // The same time of the year, or as long before the day of the run.
        let moved = (is[2] - middle).abs().min((is[2] - middle - shift).abs());
        let wider = is[3] - is[1] > width * 3 + 20;
        let room = width.max(20);
        let expected = |day: i64| {
            (first - room..=last + room).contains(&day)
                || (first - room..=last + room).contains(&(day - shift))
        };
        let is_beyond =
            |held: Held| matches!(held, Held::Moment(minutes) if !expected(minutes.div_euclid(DAY)));
        let beyond = sample.held(place).filter(|held| is_beyond(*held)).count() as u64;
        let share = percent(beyond, now.count);
        let row = || sample.first_row(place, is_beyond);
        if moved > width * 3 + 45 || wider {
            return Some((UnlikeField::Days([(is[1], is[3]), (low, high)]), row()));
        }
        (share >= 12).then(|| (UnlikeField::DaysBeyond(share), row()))
    }
}

impl TextMemory {
    fn unlike(&self, now: &Self) -> Option<UnlikeField> {
        if self.count < ENOUGH || now.count < ENOUGH {
            return None;
        }
        let [.., longest] = now.lengths;
        let at_longest = percent(now.longest, now.count);
        let [_, _, _, long, most] = self.lengths;
        if longest < most && at_longest >= 12 && (long > longest || most > longest + 2) && longest >= 8 {
            return Some(UnlikeField::Cut { length: longest, longest: at_longest });
        }
        let zeros = [now, self].map(|texts| percent(texts.zero_first, texts.count));
        if zeros[1] >= zeros[0] * 4 + 10 {
            return Some(UnlikeField::Zeros(zeros));
        }
        let is_list = self.different * 4 <= self.count && now.different * 4 <= now.count;
        let apart = self.distance(now).filter(|_| is_list)?;
        // So far apart are two samples of one list by chance.
        let by_chance = (25 * self.different.max(now.different) * 200 / self.count.min(now.count)).isqrt();
        // Seasons and people change how often a code is needed. Where each is as often as another one was, the codes
        // themselves are others.
        let are_others = apart >= by_chance + 14 && self.distance_in_order(now) <= 12;
        (are_others || apart >= by_chance + 35).then_some(UnlikeField::Shares(apart))
    }

    /// How little they have in common if the most frequent text of the one stands for that of the other, and so on.
    fn distance_in_order(&self, other: &Self) -> u64 {
        let shares = |texts: &Self| {
            let of = texts.texts.iter().map(|(_, count)| count).sum::<u64>().max(1);
            let mut shares: Vec<u64> = texts.texts.iter().map(|(_, count)| count * 10_000 / of).collect();
            shares.sort_unstable_by_key(|share| std::cmp::Reverse(*share));
            shares
        };
        let alike: u64 = shares(self).into_iter().zip(shares(other)).map(|(one, other)| one.min(other)).sum();
        100_u64.saturating_sub((alike + 50) / 100)
    }

    /// How little two columns of texts have in common, of a hundred: the sum of what either has more of.
    fn distance(&self, other: &Self) -> Option<u64> {
        if self.count < ENOUGH || other.count < ENOUGH {
            return None;
        }
        // Of both, the hashes up to where the shorter list ends are known.
        let full = |texts: &Self| texts.different > texts.texts.len() as u64;
        let last = |texts: &Self| texts.texts.last().map(|(hash, _)| hash.clone()).filter(|_| full(texts));
        let end = match (last(self), last(other)) {
            (Some(one), Some(other)) => Some(one.min(other)),
            (one, other) => one.or(other),
        };
        let known = |texts: &Self| -> HashMap<String, u64> {
            let within = |hash: &String| end.as_ref().is_none_or(|end| hash <= end);
            texts.texts.iter().filter(|(hash, _)| within(hash)).cloned().collect()
        };
        let (mine, theirs) = (known(self), known(other));
        let sums = (mine.values().sum::<u64>(), theirs.values().sum::<u64>());
        let alike: u64 = mine
            .iter()
            .filter_map(|(hash, count)| {
                let other = theirs.get(hash)?;
                Some((count * 10_000 / sums.0.max(1)).min(other * 10_000 / sums.1.max(1)))
            })
            .sum();
        Some(100_u64.saturating_sub((alike + 50) / 100))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{RunFacts, SampledRecord};

    const FIELDS: [&str; 8] = ["no", "day", "due", "mass", "fee", "grade", "who", "note"];

    /// Numbers that look as if they were drawn.
    struct Draws(u64);

    impl Draws {
        fn below(&mut self, most: u64) -> u64 {
            self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (self.0 >> 33) % most
        }

        /// Few small ones and few large ones, most of them between.
        fn middling(&mut self, most: u64) -> i64 {
            i64::try_from((self.below(most) + self.below(most) + self.below(most)) / 3).unwrap()
        }
    }

    fn text(number: u64, chars: u32) -> Held {
        Held::Text {
            hash: number.wrapping_mul(0x9e37_79b9_7f4a_7c15),
            chars,
            zero_first: number.is_multiple_of(2),
            accented: false,
        }
    }

    /// A month of records: a running number, two days, two amounts, a code, a name and a note.
    fn month(seed: u64, rows: u64) -> Vec<Vec<Held>> {
        let mut draws = Draws(seed * 7_919);
        (0..rows)
            .map(|row| {
                let day =
                    (20_000 + 30 * i64::try_from(seed).unwrap() + i64::try_from(draws.below(30)).unwrap())
                        * DAY;
                let due = day + (3 + draws.middling(60)) * DAY;
                let mass = 2_000_000 + draws.middling(9_000_000);
                let grade = [0, 0, 0, 0, 1, 1, 1, 2, 2, 3][draws.below(10) as usize];
                vec![
                    text(seed * 1_000 + row, 6),
                    Held::Moment(day),
                    Held::Moment(due),
                    Held::Number(mass, 1),
                    Held::Number(40_000_000 + draws.middling(80_000_000), 2),
                    text(grade, 1),
                    text(1_000 + draws.below(9) * draws.below(9), 9),
                    text(draws.below(1 << 40), 5 + u32::try_from(draws.below(30)).unwrap()),
                ]
            })
            .collect()
    }

    fn remembered(records: &[Vec<Held>], seed: u64) -> (BatchMemory, Sample) {
        let mut sample = Sample::default();
        for (row, held) in (2..).zip(records) {
            let hash = (format!("{held:?}").bytes())
                .fold(17_u64, |hash, byte| hash.wrapping_mul(0x100_0000_01b3) ^ u64::from(byte));
            sample.add(SampledRecord { hash, row, held: held.clone().into() });
        }
        let day = 20_032 + 30 * i64::try_from(seed).unwrap();
        let facts = RunFacts {
            fields: &FIELDS,
            marks: &['.'; 8],
            day,
            rows: records.len() as u64,
            encoding: "utf-8",
        };
        (BatchMemory::of(&sample, &facts), sample)
    }

    /// What is said of a second month that was changed like this.
    fn said(change: impl Fn(&mut Vec<Held>)) -> String {
        let (before, _) = remembered(&month(1, 240), 1);
        let mut records = month(2, 220);
        records.iter_mut().for_each(change);
        let (now, sample) = remembered(&records, 2);
        before.unlike(&now, &sample).iter().map(Unlike::words).collect::<Vec<_>>().join("\n")
    }

    fn number(held: &mut Held, change: impl Fn(i64) -> i64) {
        if let Held::Number(number, _) = held {
            *number = change(*number);
        }
    }

    #[test]
    fn months_that_are_like_the_others_say_nothing() {
        let mut said = Vec::new();
        for seed in 1..60 {
            let (before, _) = remembered(&month(seed, 150 + seed * 3), seed);
            let (now, sample) = remembered(&month(seed + 1, 260 - seed * 2), seed + 1);
            said.extend(before.unlike(&now, &sample));
        }
        assert_eq!(said, []);
    }

    #[test]
    fn what_a_careful_person_would_notice_is_said_with_its_fields() {
        for (what, says) in [
            (said(|row| row.swap(3, 4)), "mass and fee: each has the values that the other had"),
            (said(|row| row.swap(1, 2)), "day is below due in 0 of 100 records, and was in 100"),
            (said(|row| row.swap(5, 6)), "grade and who: each has the values that the other had"),
            (
                said(|row| number(&mut row[3], |mass| mass * 22 / 10)),
                "mass: the numbers are about 2.2 times as large",
            ),
            (
                said(|row| number(&mut row[4], |fee| fee / 100)),
                "fee: the numbers are about 1 hundredths of what they were",
            ),
            (
                said(|row| number(&mut row[4], |fee| -fee)),
                "fee: 100 of 100 numbers are below zero, and 0 were",
            ),
            (said(|row| number(&mut row[3], |mass| if mass % 3 == 0 { mass * 3 } else { mass })), "mass: 3"),
            (
                said(|row| {
                    if let Held::Number(_, decimals) = &mut row[3] {
                        *decimals = 4
                    }
                }),
                "mass: 100 of 100 numbers have more than 1 decimals, and 0 had",
            ),
            (
                said(|row| {
                    if let Held::Moment(day) = &mut row[1] {
                        *day += (*day / DAY % 12) * 30 * DAY
                    }
                }),
                "day: half of the days lie from",
            ),
            (said(|row| row[2] = Held::Wrong), "due: 100 of 100 values are rejected, and 0 were"),
            (
                said(|row| {
                    if row[5] == text(0, 1) {
                        row[5] = text(3, 1)
                    } else if row[5] == text(3, 1) {
                        row[5] = text(0, 1)
                    }
                }),
                "grade: in ",
            ),
            (
                said(|row| {
                    if let Held::Text { chars, .. } = &mut row[7] {
                        *chars = (*chars).min(20)
                    }
                }),
                "note: ",
            ),
            (
                said(|row| {
                    if let Held::Text { zero_first, .. } = &mut row[0] {
                        *zero_first = false
                    }
                }),
                "no: 0 of 100 values begin with 0, and 50 did; zeros may be lost",
            ),
        ] {
            assert!(what.lines().any(|line| line.starts_with(says)), "{says}: {what}");
        }
    }

    #[test]
    fn fewer_rows_rows_again_and_other_readings_are_said() {
        let (before, _) = remembered(&month(1, 240), 1);
        let says = |records: &[Vec<Held>], change: &dyn Fn(&mut BatchMemory)| {
            let (mut now, sample) = remembered(records, 2);
            change(&mut now);
            before.unlike(&now, &sample).iter().map(Unlike::words).collect::<Vec<_>>().join("\n")
        };
        assert!(says(&month(2, 24), &|_| {}).contains("there are 24 rows, and the last batch had 240"));
        let again = [month(2, 150), month(1, 60)].concat();
        assert!(
            says(&again, &|_| {}).starts_with(
                "60 of 210 rows were in the last batch already, just as they are; first row 152"
            )
        );
        let comma = |now: &mut BatchMemory| now.fields[3].numbers.as_mut().unwrap().mark = ',';
        assert_eq!(says(&month(2, 200), &comma), "mass: \",\" is before the decimals, and it was \".\"");
    }

    #[test]
    fn what_is_kept_is_read_back_as_it_was_and_too_few_records_are_not_compared() {
        let (memory, _) = remembered(&month(3, 3_000), 3);
        let kept = serde_json::to_string(&memory).unwrap();
        assert_eq!(serde_json::from_str::<BatchMemory>(&kept).unwrap(), memory);
        assert!(kept.len() < 120_000, "{}", kept.len());
        let (few, _) = remembered(&month(1, 20), 1);
        let (now, sample) = remembered(
            &month(2, 20)
                .into_iter()
                .map(|mut row| {
                    row.swap(3, 4);
                    row
                })
                .collect::<Vec<_>>(),
            2,
        );
        assert_eq!(few.unlike(&now, &sample), []);
    }
}
