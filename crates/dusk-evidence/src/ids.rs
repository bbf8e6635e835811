//! What is numbered is numbered by a type of its own, so that the number of a column can never pass for that
//! of a field.

use std::fmt;
use std::marker::PhantomData;
use std::ops::{Deref, DerefMut};

/// A number that says which of several things is meant.
pub trait Id: Copy + Eq {
    /// The id of the thing at this index, from 0.
    fn new(index: usize) -> Self;

    /// The index.
    fn index(self) -> usize;
}

macro_rules! ids {
    ($($(#[$doc:meta])* $name:ident),* $(,)?) => { $(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub struct $name(u32);

        impl $name {
            /// The first one.
            pub const FIRST: Self = Self(0);
        }

        impl Id for $name {
            fn new(index: usize) -> Self {
                // More things than this fit into no memory.
                Self(u32::try_from(index).unwrap_or(u32::MAX))
            }

            fn index(self) -> usize {
                self.0 as usize
            }
        }

        impl fmt::Debug for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                write!(f, "{} {}", stringify!($name), self.0)
            }
        }
    )* };
}

ids! {
    /// A field of the target.
    FieldId,
    /// A column of a source.
    ColumnId,
    /// A heading that a plan uses, among all those that it uses.
    Slot,
    /// A source of a run.
    SourceId,
}

/// Things that are looked up by their ids, and by nothing else.
#[derive(Clone, PartialEq, Eq)]
pub struct ById<I, T> {
    things: Vec<T>,
    id: PhantomData<I>,
}

impl<I: Id, T> ById<I, T> {
    /// The thing with this id.
    #[inline]
    pub fn get(&self, id: I) -> Option<&T> {
        self.things.get(id.index())
    }

    /// The thing with this id, to be changed.
    #[inline]
    pub fn get_mut(&mut self, id: I) -> Option<&mut T> {
        self.things.get_mut(id.index())
    }

    /// Two different things, to be changed; nothing where one is not there, or both are the same.
    pub fn get_two_mut(&mut self, first: I, second: I) -> Option<[&mut T; 2]> {
        self.things.get_disjoint_mut([first.index(), second.index()]).ok()
    }

    /// Every thing with its id, in order.
    pub fn with_ids(&self) -> impl DoubleEndedIterator<Item = (I, &T)> + ExactSizeIterator + Clone {
        self.things.iter().enumerate().map(|(index, thing)| (I::new(index), thing))
    }

    /// Every id, in order.
    pub fn ids(&self) -> impl DoubleEndedIterator<Item = I> + ExactSizeIterator + Clone + use<I, T> {
        (0..self.things.len()).map(I::new)
    }

    /// The first thing of which this is true.
    pub fn find(&self, is_it: impl FnMut(&T) -> bool) -> Option<I> {
        self.things.iter().position(is_it).map(I::new)
    }

    /// Puts a thing behind the others.
    pub fn push(&mut self, thing: T) -> I {
        self.things.push(thing);
        I::new(self.things.len() - 1)
    }
}

impl<I: Id, T: Clone> ById<I, T> {
    /// The same for every thing of `others`.
    pub fn like<U>(others: &ById<I, U>, thing: T) -> Self {
        Self::from(vec![thing; others.things.len()])
    }
}

impl<I, T> From<Vec<T>> for ById<I, T> {
    fn from(things: Vec<T>) -> Self {
        Self { things, id: PhantomData }
    }
}

impl<I, T> FromIterator<T> for ById<I, T> {
    fn from_iter<A: IntoIterator<Item = T>>(things: A) -> Self {
        Self::from(Vec::from_iter(things))
    }
}

impl<I, T> IntoIterator for ById<I, T> {
    type Item = T;
    type IntoIter = std::vec::IntoIter<T>;

    fn into_iter(self) -> Self::IntoIter {
        self.things.into_iter()
    }
}

impl<'t, I, T> IntoIterator for &'t ById<I, T> {
    type Item = &'t T;
    type IntoIter = std::slice::Iter<'t, T>;

    fn into_iter(self) -> Self::IntoIter {
        self.things.iter()
    }
}

impl<'t, I, T> IntoIterator for &'t mut ById<I, T> {
    type Item = &'t mut T;
    type IntoIter = std::slice::IterMut<'t, T>;

    fn into_iter(self) -> Self::IntoIter {
        self.things.iter_mut()
    }
}

impl<I, T> Default for ById<I, T> {
    fn default() -> Self {
        Self::from(Vec::new())
    }
}

impl<I, T: fmt::Debug> fmt::Debug for ById<I, T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.things.fmt(f)
    }
}

/// In their order, without ids.
impl<I, T> Deref for ById<I, T> {
    type Target = [T];

    fn deref(&self) -> &[T] {
        &self.things
    }
}

impl<I, T> DerefMut for ById<I, T> {
    fn deref_mut(&mut self) -> &mut [T] {
        &mut self.things
    }
}
