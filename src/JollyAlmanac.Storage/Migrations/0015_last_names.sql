-- Lists of people stand in the order of their last names.
create index people_by_last_name on people (replace(name, rtrim(name, replace(name, ' ', '')), ''), name, id)
where ended_at is null and erased_at is null;
