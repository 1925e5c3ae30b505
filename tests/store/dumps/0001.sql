CREATE TABLE public.alembic_version (
    version_num character varying(32) NOT NULL
);
CREATE TABLE public.change (
    game character varying NOT NULL,
    revision integer NOT NULL,
    at timestamp with time zone,
    origin character varying NOT NULL,
    label character varying NOT NULL,
    entries jsonb NOT NULL
);
CREATE TABLE public.entity (
    game character varying NOT NULL,
    kind character varying NOT NULL,
    id character varying NOT NULL,
    "position" double precision NOT NULL,
    revision integer NOT NULL,
    body jsonb
);
CREATE TABLE public.game (
    id character varying NOT NULL,
    name character varying NOT NULL,
    revision integer NOT NULL,
    created_at timestamp with time zone,
    updated_at timestamp with time zone,
    deleted_at timestamp with time zone
);
CREATE TABLE public.trial (
    id character varying NOT NULL,
    game character varying NOT NULL,
    number integer NOT NULL,
    name character varying NOT NULL,
    revision integer NOT NULL,
    spec jsonb NOT NULL,
    status character varying NOT NULL,
    done bigint NOT NULL,
    seconds double precision,
    error character varying,
    result jsonb,
    created_at timestamp with time zone
);
INSERT INTO public.alembic_version VALUES ('0001');
INSERT INTO public.change VALUES ('c94a6f6e3955', 1, '2026-11-26 17:28:56.228947+00', 'made', 'made the game', '[]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 2, '2026-11-26 17:28:56.267419+00', 'edit', 'value 5', '[{"id": "sand", "kind": "item", "after": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 5.0}, "before": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 1.0}, "position_after": 1024.0, "position_before": 1024.0}]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 3, '2026-11-26 17:28:56.281518+00', 'edit', 'value 6', '[{"id": "sand", "kind": "item", "after": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 6.0}, "before": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 5.0}, "position_after": 1024.0, "position_before": 1024.0}]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 4, '2026-11-26 17:28:56.292497+00', 'edit', 'value 7', '[{"id": "sand", "kind": "item", "after": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 7.0}, "before": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 6.0}, "position_after": 1024.0, "position_before": 1024.0}]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 5, '2026-11-26 17:28:56.305114+00', 'undo', 'value 7', '[{"id": "sand", "kind": "item", "after": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 6.0}, "before": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 7.0}, "position_after": 1024.0, "position_before": 1024.0}]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 6, '2026-11-26 17:28:56.318798+00', 'undo', 'value 6', '[{"id": "sand", "kind": "item", "after": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 5.0}, "before": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 6.0}, "position_after": 1024.0, "position_before": 1024.0}]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 7, '2026-11-26 17:28:56.333646+00', 'redo', 'value 6', '[{"id": "sand", "kind": "item", "after": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 6.0}, "before": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 5.0}, "position_after": 1024.0, "position_before": 1024.0}]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 8, '2026-11-26 17:28:56.347832+00', 'undo', 'value 6', '[{"id": "sand", "kind": "item", "after": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 5.0}, "before": {"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 6.0}, "position_after": 1024.0, "position_before": 1024.0}]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 9, '2026-11-26 17:28:56.364977+00', 'edit', 'claw 9', '[{"id": "claw", "kind": "item", "after": {"id": "claw", "name": "Claw", "tier": "silt", "value": 9.0}, "before": {"id": "claw", "name": "Claw", "tier": "silt", "value": 3.0}, "position_after": 2048.0, "position_before": 2048.0}]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 10, '2026-11-26 17:28:56.375804+00', 'undo', 'claw 9', '[{"id": "claw", "kind": "item", "after": {"id": "claw", "name": "Claw", "tier": "silt", "value": 3.0}, "before": {"id": "claw", "name": "Claw", "tier": "silt", "value": 9.0}, "position_after": 2048.0, "position_before": 2048.0}]');
INSERT INTO public.change VALUES ('c94a6f6e3955', 11, '2026-11-26 17:28:56.392694+00', 'edit', 'removed other', '[{"id": "other", "kind": "table", "after": null, "before": {"id": "other", "name": "Other", "rule": "pick", "lines": [{"id": "a", "weight": 1.0, "yields": [{"item": "claw"}]}]}, "position_after": 2048.0, "position_before": 2048.0}]');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'settings', 'game', 1024, 1, '{"name": "Tide pool", "depth": {"to": 10}, "currency": "brass"}');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'tier', 'silt', 1024, 1, '{"id": "silt", "name": "Silt"}');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'tier', 'pearl', 2048, 1, '{"id": "pearl", "name": "Pearl", "pips": 4, "colour": "#b83a5b"}');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'item', 'lens', 3072, 1, '{"id": "lens", "name": "Lens", "tags": ["glass"], "tier": "pearl", "value": 40.0}');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'item', 'crown', 4096, 1, '{"id": "crown", "name": "Crown", "tier": "pearl", "value": 500.0}');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'table', 'bits', 1024, 1, '{"id": "bits", "name": "Bits", "rule": "pick", "lines": [{"id": "a", "weight": 1.0, "yields": [{"item": "sand"}]}, {"id": "b", "weight": 2.0, "yields": [{"item": "lens"}]}]}');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'source', 'crab', 1024, 1, '{"id": "crab", "kind": "enemy", "name": "Crab", "drops": [{"id": "a", "table": "bits"}], "seconds": 6.0}');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'item', 'sand', 1024, 8, '{"id": "sand", "name": "Sand", "tags": ["glass"], "tier": "silt", "value": 5.0}');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'item', 'claw', 2048, 10, '{"id": "claw", "name": "Claw", "tier": "silt", "value": 3.0}');
INSERT INTO public.entity VALUES ('c94a6f6e3955', 'table', 'other', 2048, 11, NULL);
INSERT INTO public.game VALUES ('c94a6f6e3955', 'Tide pool', 11, '2026-11-26 17:28:56.214876+00', '2026-11-26 17:28:56.392471+00', NULL);
INSERT INTO public.trial VALUES ('154b570f9cf0', 'c94a6f6e3955', 1, 'Trial 1', 1, '{"name": "", "seed": 1, "view": {"id": "crab", "kind": "source"}, "depth": 1, "flags": [], "events": 10, "players": 10}', 'waiting', 0, NULL, NULL, NULL, '2026-11-26 17:28:56.402057+00');
INSERT INTO public.trial VALUES ('ba3ec55ac2c6', 'c94a6f6e3955', 2, 'Trial 2', 1, '{"name": "", "seed": 1, "view": {"id": "crab", "kind": "source"}, "depth": 1, "flags": [], "events": 10, "players": 10}', 'waiting', 0, NULL, NULL, NULL, '2026-11-26 17:28:56.411118+00');
ALTER TABLE ONLY public.alembic_version
    ADD CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num);
ALTER TABLE ONLY public.change
    ADD CONSTRAINT change_pkey PRIMARY KEY (game, revision);
ALTER TABLE ONLY public.entity
    ADD CONSTRAINT entity_pkey PRIMARY KEY (game, kind, id);
ALTER TABLE ONLY public.game
    ADD CONSTRAINT game_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.trial
    ADD CONSTRAINT trial_pkey PRIMARY KEY (id);
CREATE INDEX ix_trial_game ON public.trial USING btree (game);
ALTER TABLE ONLY public.change
    ADD CONSTRAINT change_game_fkey FOREIGN KEY (game) REFERENCES public.game(id) ON DELETE CASCADE;
ALTER TABLE ONLY public.entity
    ADD CONSTRAINT entity_game_fkey FOREIGN KEY (game) REFERENCES public.game(id) ON DELETE CASCADE;
ALTER TABLE ONLY public.trial
    ADD CONSTRAINT trial_game_fkey FOREIGN KEY (game) REFERENCES public.game(id) ON DELETE CASCADE;
