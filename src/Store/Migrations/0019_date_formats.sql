-- How dates and times are shown: a company default, and each user's own choice.
alter table business
    add clock text not null default 'twenty_four_hour' check (clock in ('twenty_four_hour', 'twelve_hour')),
    add date_order text not null default 'month_first' check (date_order in ('month_first', 'day_first'));
alter table users
    add clock text check (clock in ('twenty_four_hour', 'twelve_hour')),
    add date_order text check (date_order in ('month_first', 'day_first'));
