--
-- PostgreSQL database dump
--
SET statement_timeout = 0;
CREATE TYPE public.tide AS ENUM ('spring', 'neap');
CREATE TABLE public.pier (
    pier_code character(3) NOT NULL,
    pier_name character varying(40) NOT NULL,
    closed_on date
);
CREATE TABLE public.crossing (
    crossing_id bigint NOT NULL,
    boat_no character(4) NOT NULL,
    left_at timestamp without time zone NOT NULL,
    arrived_at timestamp without time zone,
    from_pier character(3) NOT NULL,
    state public.tide,
    passengers smallint NOT NULL,
    fare numeric(6,2),
    fog boolean DEFAULT false NOT NULL,
    remark text,
    CONSTRAINT arrived_later CHECK ((arrived_at > left_at)),
    CONSTRAINT boat_form CHECK ((boat_no ~ '^B[0-9]{3}$'::text)),
    CONSTRAINT crossing_passengers_check CHECK (((passengers >= 0) AND (passengers <= 350)))
);
ALTER TABLE public.crossing ALTER COLUMN crossing_id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.crossing_crossing_id_seq
    START WITH 1
    INCREMENT BY 1
    CACHE 1
);
COMMENT ON COLUMN public.crossing.fare IS 'Takings in crowns, empty for free crossings';
COPY public.pier (pier_code, pier_name, closed_on) FROM stdin;
NOR	North Pier	\N
SOU	South Pier	\N
OLD	Old Steps	2023-10-31
\.
ALTER TABLE ONLY public.crossing ADD CONSTRAINT crossing_pkey PRIMARY KEY (crossing_id);
ALTER TABLE ONLY public.pier ADD CONSTRAINT pier_pkey PRIMARY KEY (pier_code);
ALTER TABLE ONLY public.crossing ADD CONSTRAINT crossing_from_fkey FOREIGN KEY (from_pier) REFERENCES public.pier(pier_code);
