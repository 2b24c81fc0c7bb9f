-- What does not take place as usual on a day is found without looking at every change there is.
create index changes_by_day on changes (day) where day is not null;
create index changes_by_original_day on changes (substr(original, 1, 10));
