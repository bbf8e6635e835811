-- Fyrplatsernas dagbok. UTF-8, decimalkomma, semikolon mellan fälten.
create table fyr (
  fyr_id char(3) primary key,
  namn varchar(40) not null,
  slackt_den date
);
insert into fyr values ('KLI','Klippan',null), ('ROD','Rödskär',null), ('GAM','Gamla fyren','2021-12-31');
create table vakt (
  vakt_nr integer not null,          -- räknas av registret; skickas inte
  fyr_id char(3) not null references fyr,
  dag date not null,
  tand time not null,                -- HH:MM
  sikt_km numeric(4,1) check (sikt_km between 0 and 60),   -- sikt i km
  vind varchar(2) check (vind in ('N','NO','O','SO','S','SV','V','NV')),
  dimma boolean not null default false,
  signaler smallint check (signaler >= 0),  -- anges om dimma är ja
  vakthavande varchar(30) not null,
  anm varchar(200),
  primary key (fyr_id, dag)
);
