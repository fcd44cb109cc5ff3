package dachshund.links.mariadb;

import dachshund.core.layout.SqlType;

/** MySQL 8, which differs from MariaDB in having no UUID type (MySQL reference manual, "Data Types"). No server of it was run here. */
public final class MySqlDialect extends MariaDbDialect {

    @Override
    public String engine() {
        return "MySQL";
    }

    @Override
    public boolean executed() {
        return false;
    }

    @Override
    public String typeName(SqlType type) {
        return type.family() == SqlType.Family.UUID ? "CHAR(36) CHARACTER SET ascii" : super.typeName(type);
    }
}
