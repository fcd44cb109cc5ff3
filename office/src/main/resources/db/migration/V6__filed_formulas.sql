-- A formula tag is filed by the id of its source and 16 digits of its address.

ALTER TABLE filed MODIFY definition_id VARCHAR(40) NOT NULL;
