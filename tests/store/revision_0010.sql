BEGIN TRANSACTION;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0010');
CREATE TABLE answers (athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, fault TEXT NOT NULL, answer TEXT NOT NULL, on_day TEXT NOT NULL, PRIMARY KEY (athlete_id, fault)) STRICT;
CREATE TABLE athletes (
        id INTEGER PRIMARY KEY, name TEXT NOT NULL, stature_m REAL, cautions TEXT NOT NULL,
        equipment TEXT NOT NULL, trained INTEGER NOT NULL, birth_year INTEGER, sex TEXT NOT NULL DEFAULT '', weight_class TEXT NOT NULL DEFAULT '', mass_kg REAL, lengths_m TEXT NOT NULL DEFAULT '{}', grips_m TEXT NOT NULL DEFAULT '{}', aim TEXT NOT NULL DEFAULT 'general', sport TEXT NOT NULL DEFAULT '', training_years REAL NOT NULL DEFAULT 0, sessions_week INTEGER NOT NULL DEFAULT 2, school TEXT NOT NULL DEFAULT '{}', consent TEXT NOT NULL DEFAULT '', notes TEXT NOT NULL DEFAULT '', photo BLOB, archived_on TEXT, lifting_years REAL, wants_lifts INTEGER NOT NULL DEFAULT 0, own_lift TEXT NOT NULL DEFAULT '') STRICT;
INSERT INTO "athletes" VALUES(1,'Wil Dane',1.75,'["wrist"]','["bar", "stick"]',1,NULL,'','',NULL,'{}','{}','general','',0.0,2,'{}','','',NULL,NULL,NULL,0,'');
INSERT INTO "athletes" VALUES(2,'Ann Bell',NULL,'[]','["bar"]',0,NULL,'','',NULL,'{}','{}','general','',0.0,2,'{}','','',NULL,NULL,NULL,0,'');
CREATE TABLE bests (
        athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, lift TEXT NOT NULL,
        kg REAL NOT NULL CHECK (kg > 0), PRIMARY KEY (athlete_id, lift)) STRICT;
INSERT INTO "bests" VALUES(1,'snatch',70.0);
INSERT INTO "bests" VALUES(1,'clean',92.5);
CREATE TABLE bodies (
    clip_id INTEGER PRIMARY KEY REFERENCES clips(id) ON DELETE CASCADE,
    made_from TEXT NOT NULL, data BLOB NOT NULL) STRICT;
CREATE TABLE clips (
        id INTEGER PRIMARY KEY, athlete_id INTEGER REFERENCES athletes(id) ON DELETE SET NULL,
        path TEXT NOT NULL, sha256 TEXT NOT NULL UNIQUE, frames INTEGER NOT NULL,
        duration_s REAL NOT NULL, filmed_on TEXT NOT NULL, lift TEXT NOT NULL, mass_kg REAL,
        facing TEXT NOT NULL, diameter_mm REAL NOT NULL, marks TEXT NOT NULL,
        thumbnail BLOB NOT NULL, steady INTEGER NOT NULL DEFAULT 1, capture_fps REAL, followed TEXT NOT NULL DEFAULT '{"thing": "plate", "spans": [], "first": null, "last": null, "aside": []}', scale_by TEXT NOT NULL DEFAULT 'plate', scale_points TEXT, body TEXT NOT NULL DEFAULT '{"points": [], "spans": [], "seeds": [], "events": []}', drawings TEXT NOT NULL DEFAULT '[]', waits TEXT NOT NULL DEFAULT 'review', background TEXT NOT NULL DEFAULT '', trouble TEXT NOT NULL DEFAULT '', guess TEXT NOT NULL DEFAULT '{}', upright TEXT) STRICT;
INSERT INTO "clips" VALUES(1,1,'/films/a.mp4','aa',90,1.5,'2026-11-01','hang power clean, above knee',60.0,'left',450.0,'[]',X'00',1,NULL,'{"thing": "plate", "spans": [], "first": null, "last": null, "aside": []}','plate',NULL,'{"points": [], "spans": [], "seeds": [], "events": []}','[]','review','','','{}',NULL);
INSERT INTO "clips" VALUES(2,NULL,'/films/b.mp4','bb',90,1.5,'2026-11-02','snatch',NULL,'right',450.0,'[]',X'00',1,NULL,'{"thing": "plate", "spans": [], "first": null, "last": null, "aside": []}','plate',NULL,'{"points": [], "spans": [], "seeds": [], "events": []}','[]','review','','','{}',NULL);
CREATE TABLE complexes (id INTEGER PRIMARY KEY, name TEXT NOT NULL, text TEXT NOT NULL, on_day TEXT NOT NULL) STRICT;
CREATE TABLE correctives (
        id INTEGER PRIMARY KEY, athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE,
        clip_id INTEGER REFERENCES clips(id) ON DELETE SET NULL, fault TEXT NOT NULL,
        drill TEXT NOT NULL, family TEXT NOT NULL, name TEXT NOT NULL, load_kg REAL,
        dose TEXT NOT NULL, reason TEXT NOT NULL, taken_on TEXT NOT NULL, review_on TEXT NOT NULL, cue TEXT NOT NULL DEFAULT '', implement TEXT NOT NULL DEFAULT 'barbell', measure TEXT NOT NULL DEFAULT '', before_value REAL, before_sigma REAL, outcome TEXT NOT NULL DEFAULT '', ended_on TEXT, after_clip INTEGER, after_value REAL, after_sigma REAL, outcome_says TEXT NOT NULL DEFAULT '') STRICT;
INSERT INTO "correctives" VALUES(1,1,1,'loop','muscle-lift','clean','Muscle clean',30.0,'3 x 5','isolates it','2026-11-03','2026-11-17','','barbell','',NULL,NULL,'',NULL,NULL,NULL,NULL,'');
CREATE TABLE drills (id TEXT PRIMARY KEY, document TEXT NOT NULL) STRICT;
CREATE TABLE findings (clip_id INTEGER NOT NULL REFERENCES clips(id) ON DELETE CASCADE, fault TEXT NOT NULL, family TEXT NOT NULL, severity REAL NOT NULL, confidence REAL NOT NULL, measure TEXT NOT NULL, value REAL, sigma REAL, PRIMARY KEY (clip_id, fault)) STRICT;
CREATE TABLE groups (id INTEGER PRIMARY KEY, name TEXT NOT NULL COLLATE NOCASE UNIQUE, pace TEXT NOT NULL DEFAULT '', weeks INTEGER NOT NULL DEFAULT 0) STRICT;
INSERT INTO "groups" VALUES(1,'Boats','',0);
CREATE TABLE judged (clip_id INTEGER PRIMARY KEY REFERENCES clips(id) ON DELETE CASCADE, family TEXT NOT NULL, measures TEXT NOT NULL) STRICT;
CREATE TABLE jumps (id INTEGER PRIMARY KEY, athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, on_day TEXT NOT NULL, height_m REAL NOT NULL) STRICT;
INSERT INTO "jumps" VALUES(1,1,'2026-06-01',0.41);
CREATE TABLE ladders (id TEXT PRIMARY KEY, document TEXT NOT NULL) STRICT;
CREATE TABLE members (
        group_id INTEGER NOT NULL REFERENCES groups(id) ON DELETE CASCADE, athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE,
        PRIMARY KEY (group_id, athlete_id)) STRICT;
INSERT INTO "members" VALUES(1,1);
CREATE TABLE movements (name TEXT PRIMARY KEY, document TEXT NOT NULL) STRICT;
CREATE TABLE screenings (
        id INTEGER PRIMARY KEY, athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, check_id TEXT NOT NULL,
        state TEXT NOT NULL CHECK (state IN ('pass', 'not yet', 'not tested')),
        on_day TEXT NOT NULL, note TEXT NOT NULL) STRICT;
INSERT INTO "screenings" VALUES(1,1,'front-rack','pass','2026-03-02','');
CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;
INSERT INTO "settings" VALUES('cautions_read','true');
CREATE TABLE steps (
        id INTEGER PRIMARY KEY, athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, ladder TEXT NOT NULL, stage TEXT NOT NULL,
        on_day TEXT NOT NULL, kind TEXT NOT NULL, why TEXT NOT NULL) STRICT;
INSERT INTO "steps" VALUES(1,1,'clean-bottom-up','front-squat','2026-03-02','start','');
CREATE TABLE tracks (
    clip_id INTEGER NOT NULL REFERENCES clips(id) ON DELETE CASCADE, thing TEXT NOT NULL,
    made_from TEXT NOT NULL, data BLOB NOT NULL, PRIMARY KEY (clip_id, thing)) STRICT;
CREATE TABLE tries (id INTEGER PRIMARY KEY, athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, on_day TEXT NOT NULL, movement TEXT NOT NULL, met INTEGER NOT NULL, asked INTEGER NOT NULL, liked INTEGER NOT NULL, speed_mps REAL) STRICT;
INSERT INTO "tries" VALUES(1,1,'2026-06-01','power clean',3,4,1,1.8);
CREATE TABLE visits (
        id INTEGER PRIMARY KEY, athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, ladder TEXT NOT NULL, stage TEXT NOT NULL,
        on_day TEXT NOT NULL, met TEXT NOT NULL, asked INTEGER NOT NULL, faults TEXT NOT NULL,
        reps INTEGER, load_kg REAL, enjoyment INTEGER NOT NULL CHECK (enjoyment IN (-1, 0, 1)),
        pain INTEGER NOT NULL, note TEXT NOT NULL, advised TEXT NOT NULL, reason TEXT NOT NULL,
        decided TEXT NOT NULL, why TEXT NOT NULL, confidence TEXT NOT NULL DEFAULT '', verdict TEXT NOT NULL DEFAULT '') STRICT;
INSERT INTO "visits" VALUES(1,1,'clean-bottom-up','front-squat','2026-03-02','[0, 1]',4,'["low-rack"]',5,30.0,1,0,'','stay','two of four','','','','');
CREATE INDEX members_of_athlete ON members (athlete_id);
CREATE INDEX screenings_of_athlete ON screenings (athlete_id, check_id, id);
CREATE INDEX visits_of_athlete ON visits (athlete_id, on_day, id);
CREATE INDEX steps_of_athlete ON steps (athlete_id, ladder, id);
CREATE INDEX steps_by_day ON steps (on_day);
COMMIT;
