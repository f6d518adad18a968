BEGIN TRANSACTION;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0001');
CREATE TABLE athletes (
        id INTEGER PRIMARY KEY, name TEXT NOT NULL, stature_m REAL, cautions TEXT NOT NULL,
        equipment TEXT NOT NULL, trained INTEGER NOT NULL) STRICT;
INSERT INTO "athletes" VALUES(1,'Wil Dane',1.75,'["wrist"]','["bar", "stick"]',1);
INSERT INTO "athletes" VALUES(2,'Ann Bell',NULL,'[]','["bar"]',0);
CREATE TABLE bests (
        athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, lift TEXT NOT NULL,
        kg REAL NOT NULL CHECK (kg > 0), PRIMARY KEY (athlete_id, lift)) STRICT;
INSERT INTO "bests" VALUES(1,'snatch',70.0);
INSERT INTO "bests" VALUES(1,'clean',92.5);
CREATE TABLE clips (
        id INTEGER PRIMARY KEY, athlete_id INTEGER REFERENCES athletes(id) ON DELETE SET NULL,
        path TEXT NOT NULL, sha256 TEXT NOT NULL UNIQUE, frames INTEGER NOT NULL,
        duration_s REAL NOT NULL, filmed_on TEXT NOT NULL, lift TEXT NOT NULL, mass_kg REAL,
        facing TEXT NOT NULL, diameter_mm REAL NOT NULL, marks TEXT NOT NULL,
        thumbnail BLOB NOT NULL) STRICT;
INSERT INTO "clips" VALUES(1,1,'/films/a.mp4','aa',90,1.5,'2026-11-01','hang power clean',60.0,'left',450.0,'[]',X'00');
INSERT INTO "clips" VALUES(2,NULL,'/films/b.mp4','bb',90,1.5,'2026-11-02','snatch',NULL,'right',450.0,'[]',X'00');
CREATE TABLE correctives (
        id INTEGER PRIMARY KEY, athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE,
        clip_id INTEGER REFERENCES clips(id) ON DELETE SET NULL, fault TEXT NOT NULL,
        drill TEXT NOT NULL, family TEXT NOT NULL, name TEXT NOT NULL, load_kg REAL,
        dose TEXT NOT NULL, reason TEXT NOT NULL, taken_on TEXT NOT NULL, review_on TEXT NOT NULL) STRICT;
INSERT INTO "correctives" VALUES(1,1,1,'loop','muscle-lift','clean','Muscle clean',30.0,'3 x 5','isolates it','2026-11-03','2026-11-17');
CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;
INSERT INTO "settings" VALUES('cautions_read','true');
CREATE TABLE tracks (
        clip_id INTEGER PRIMARY KEY REFERENCES clips(id) ON DELETE CASCADE,
        made_from TEXT NOT NULL, data BLOB NOT NULL) STRICT;
COMMIT;
