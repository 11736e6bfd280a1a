import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;

/** Reads a lake by JDBC, with the client jar alone on the class path. */
public class OneJar {
  public static void main(String[] arguments) throws Exception {
    String url = "jdbc:ysteron:" + arguments[0];
    try (Connection connection = DriverManager.getConnection(url);
        Statement statement = connection.createStatement()) {
      statement.execute("CREATE TABLE tide.harbours (name VARCHAR PRIMARY KEY, gauges INTEGER)");
      statement.executeUpdate("INSERT INTO tide.harbours VALUES ('Orrin', 1)");
      ResultSet rows = statement.executeQuery("SELECT gauges FROM tide.harbours");
      rows.next();
      System.out.println(rows.getInt(1) + " gauge of tide");
    }
  }
}
