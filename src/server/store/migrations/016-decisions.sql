-- Until when a quarantine lasts, epoch ms. Kinds of decisions since: 'own', 'owner', 'state', 'link', 'unlink'.
ALTER TABLE decisions ADD COLUMN until REAL;
