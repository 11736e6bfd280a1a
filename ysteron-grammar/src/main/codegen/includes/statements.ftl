<#-- CREATE TABLE name (columns and constraints). -->
SqlCreate CreateTable(Span s, boolean replace) :
{
  final SqlIdentifier name;
  final SqlNodeList elements;
}
{
  <TABLE> name = CompoundIdentifier()
  <LPAREN> { elements = new SqlNodeList(getPos()); }
  TableElement(elements) ( <COMMA> TableElement(elements) )*
  <RPAREN>
  { return SqlDdlNodes.createTable(s.end(this), replace, false, name, elements, null); }
}

void TableElement(SqlNodeList elements) :
{
  final SqlIdentifier column;
  final SqlDataTypeSpec type;
  final boolean nullable;
  final SqlNodeList columns;
  final Span s = Span.of();
  SqlIdentifier name = null;
  SqlNode expression = null;
}
{
  LOOKAHEAD(2)
  column = SimpleIdentifier() type = DataType() nullable = NullableOptDefaultTrue()
  [ <DEFAULT_> expression = Expression(ExprContext.ACCEPT_SUB_QUERY) ]
  {
    elements.add(
        SqlDdlNodes.column(
            s.add(column).end(this),
            column,
            type.withNullable(nullable),
            expression,
            expression != null
                ? ColumnStrategy.DEFAULT
                : nullable ? ColumnStrategy.NULLABLE : ColumnStrategy.NOT_NULLABLE));
  }
|
  [ <CONSTRAINT> { s.add(this); } name = SimpleIdentifier() ]
  (
    <CHECK> { s.add(this); } <LPAREN> expression = Expression(ExprContext.ACCEPT_SUB_QUERY) <RPAREN>
    { elements.add(SqlDdlNodes.check(s.end(this), name, expression)); }
  |
    <UNIQUE> { s.add(this); } columns = ParenthesizedSimpleIdentifierList()
    { elements.add(SqlDdlNodes.unique(s.end(columns), name, columns)); }
  |
    <PRIMARY> { s.add(this); } <KEY> columns = ParenthesizedSimpleIdentifierList()
    { elements.add(SqlDdlNodes.primary(s.end(columns), name, columns)); }
  )
}

<#-- SET SYSTEM_TIME TO point; SET SYSTEM_TIME DEFAULT. -->
SqlNode SetSystemTime() :
{
  final Span s;
  SqlNode point = null;
}
{
  <SET> { s = span(); } <SYSTEM_TIME>
  (
    <TO> point = Expression(ExprContext.ACCEPT_NON_QUERY)
  |
    <DEFAULT_>
  )
  {
    return point == null
        ? LakeOperators.SET_SYSTEM_TIME.createCall(s.end(this))
        : LakeOperators.SET_SYSTEM_TIME.createCall(s.end(this), point);
  }
}

<#-- EXPLAIN [ANALYZE] query. -->
SqlNode ExplainQuery() :
{
  final Span s;
  final SqlNode query;
  boolean measures = false;
}
{
  <EXPLAIN> { s = span(); }
  [ LOOKAHEAD(2) <PLAN> <FOR> ]
  [ LOOKAHEAD(1) <ANALYZE> { measures = true; } ]
  query = OrderedQueryOrExpr(ExprContext.ACCEPT_QUERY)
  {
    return measures
        ? LakeOperators.EXPLAIN_ANALYZE.createCall(s.end(this), query)
        : LakeOperators.EXPLAIN.createCall(s.end(this), query);
  }
}

<#-- CREATE [OR REPLACE] TEMPORARY VIEW name [(columns)] AS query. -->
SqlCreate CreateTemporaryView(Span s, boolean replace) :
{
  final SqlIdentifier name;
  final SqlNode query;
  SqlNodeList columns = null;
}
{
  <TEMPORARY> <VIEW> name = CompoundIdentifier()
  [ columns = ParenthesizedSimpleIdentifierList() ]
  <AS> query = OrderedQueryOrExpr(ExprContext.ACCEPT_QUERY)
  { return SqlDdlNodes.createView(s.end(this), replace, name, columns, query); }
}
