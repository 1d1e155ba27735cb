"""Lines and sides of a table that do not belong together, as its own words and figures say."""

from __future__ import annotations

import shlex
import sqlite3
from collections.abc import Callable, Sequence

import pytest

from conftest import Desk, by_label

MONTHS = [f"2026-{month:02}" for month in range(1, 11)]
# Tables, a row between two bars, with what is asked of each, and what stops it.
STOPPED = """
Line,Actual,Budget|North,500,450|South,301,330|Average,400,390 >> Average is worked out of the others by name
Line,Actual,Budget|North,500,450|South,301,330|Min,301,330|Max,500,450 >> Min, Max are worked out of the others
Line,2025|North,500|South,301|Durchschnitt,400 >> Durchschnitt is worked out of the others
Line,Actual,Budget,Variance|North,500,450,50|South,300,330,30|West,120,100,-20 >> a cost by the signs of Variance
Line,Actual,Budget|Revenue,500,450|Fuel,300,330 >> 'Revenue' is income and 'Fuel' a cost
Line,2025,2026|Fares,500,520|- cars,200,210|- foot,290,310|Freight,100,90 >> - cars, - foot are set in below 'Fares'
Line,2025,2026|Revenue EUR k,500,520|Grant EUR,300000,310000 >> are in unlike units
Account,2025,2026|4,600,610|40,500,520|400,300,300|401,200,220|41,100,90 >> Account 4, 40 would be counted with their
Month,Index (2025 = 100)|2026-01,100|2026-02,101 >> is a rate by its heading
Team,Headcount,Pay,Pension,Total|Deck,5,4490,638,5128|Engine,20,5455,749,6204 >> Headcount and Pay + Pension could each
Date,Paid in,Paid out,Balance|2026-01-05,700,,1700|2026-02-05,,450,1250 >> --amount '"Paid in" - "Paid out"'
Trip,Month|0,2026-01|1,2026-02|2,2026-03|3,2026-04|4,2026-05|5,2026-06 >> Trip, which numbers the rows
Route,Actual,Budget|North,5,6|South,7,8|Account,Actual,Budget|Fuel,3,4 >> below the first, from row 4 ('Account')
Route,What,Net|N,Fares act,1|N,Fares bud,1|S,Fares act,1|S,Fares bud,1 >> sides of one amount by name >> --by Route,What
Month,LTM revenue|2026-01,900|2026-02,910 >> LTM revenue holds several months each by its heading
Line,Actual,Budget|Fares,500,480|Freight,200,210|Revenue,700,690 >> 'Revenue' is the sum of Fares and Freight above it
Line,Actual,Budget|Revenue,700,690|Fares,500,480|Freight,200,210 >> 'Revenue' is the sum of Fares and Freight below
Line,2026,2025|Fares,512,488|Freight,201,218|Revenue,713,706|Fuel,261,252 >> 'Revenue' is income and 'Fuel' a cost
Entity,Actual,Budget|Group,640,632|Ferries,500,480|Harbour,200,210|Eliminations,-60,-58 >> 'Group' is the sum of all
E,L,2025,2026|A,x,5123,41|A,y,77,8164|C,x,6038,33|C,y,7083,13365|B,x,915,-8|B,y,7006,5201 >> E C would
El,Month,Net|A,2026-01,5|B,2026-01,7|Group,2026-01,12|A,2026-02,6|B,2026-02,9|Group,2026-02,15 >> El Group would
Year,Part,Net|2025,Q1,5|2025,Q2,6|2025,Q3,7|2025,Q4,8|2026,Q1,5|2026,Q2,7 >> no year, and 2026 has nothing in Q3
Entity,2025,2026|Ferries,480,501|Harbour,210,200|Group,684,695 >> 'Group' has the name of a total and is 695
Route,Actual,Budget|North,110*,119|South,95*,90 >> cell B2: '110*' is not a figure (and 1 more)
Line,2025,2026|Margin bps,120,130|Cost bps,80,85 >> Margin bps, Cost bps are rates by name
Month,T,Net|2026-01,A,9|2026-01,P,8|2026-02,A,7|2026-02,P,6 >> T says A, P, which may be versions
Month,T,Net|2026-01,Prelim,9|2026-01,Final,8|2026-02,Prelim,7|2026-02,Final,6 >> T says Final, Prelim
Month,Route,Net|2026-01,N,9|2026-01,Carried forward,9|2026-02,N,8|2026-02,Brought forward,9 >> are balances by name
Line,2026,2025,2025 restated|Fuel,1,2,3|Crew,4,5,7 >> --current 2026 --base '2025 restated' the second
Line,Actual local,Budget local,Actual EUR,Budget EUR|Fuel,1,2,3,4|Crew,4,5,7,8 >> local, EUR are the same numbers
Line,Gross 2025,Gross 2026,Net 2025,Net 2026|Fuel,1,2,3,4|Crew,4,5,7,8 >> --amount 'Gross 2025,Gross 2026'
Headcount by team|Team,Jan 2026,Feb 2026|Deck,12,13|Engine,8,9 >> Headcount is a balance by the title above
Headcount,Jan 2026,Feb 2026|Deck,12,13|Engine,8,9 >> Headcount is a balance by the heading Headcount
Route,Jan 2026,Feb 2026|Load factor N,71,73|Load factor S,68,69 >> Load factor is a rate by the names of its Route
Month,Route,On-time performance|2026-01,N,91|2026-02,N,93 >> is a rate by its heading
Month,Route,Working capital|2026-01,N,91|2026-02,N,93 >> is a balance by its heading
"Load factor, 2026"|Route,Jan 2026,Feb 2026|N,71,73|S,68,69 >> Load factor is a rate by the title above
Period,2025,2026|Jan,1,2|Feb,2,3|Mar,3,4|Q1,7,11 >> --where 'Period!=Q1' leaves the longer out
Line,Actual,Budget|Gross fares,500,480|Net fares,480,456 >> 'Gross fares', 'Net fares' are one amount
Line,Actual,Budget|Sales,500,480|Sales (excl. VAT),420,403|Fuel,30,29 >> --where 'Line!=Sales (excl. VAT)'
Route,Actual,Budget|North,512,604|South,733,812|Last year,1200,1416 >> 'Last year' is a side by its name
Line,2025,2026|Fares,500,480|Growth,,-4% >> 2026 has percentages such as '-4%' among amounts
Line,2025,2026|Fares,500,480|Growth,,-20 >> Growth is worked out of the others by name
Line,Actual,Budget|Fares,500,480|Freight,200,180|Other,50,40|Top line,750,700 >> 'Top line' is the sum of
Line,2025,2026|Fares,12,14|Budget,11,13|Variance,1,1|Fuel,5,7|Budget,4,9|Variance,1,-2 >> 'Line!=Budget,Variance'
Month,Record type,Net|2026-01,Detail,5|2026-01,Summary,5|2026-02,Detail,7 >> --where 'Record type=Detail'
Month,Frequency,Net|2026-01,Daily,5|2026-01,Monthly,5 >> Frequency says Daily, Monthly, which are the same
Month,Is leaf,Net|2026-01,Y,5|2026-01,N,6 >> --where 'Is leaf=Y'
Seg,Revenue 2025,EBITDA 2025,Revenue 2026,EBITDA 2026|A,5,1,6,2|B,7,2,8,3 >> EBITDA is what is left of other
Line,Actual pax,Budget pax,Actual revenue,Budget revenue|N,1,2,3,4|S,4,5,7,8 >> pax and revenue are unlike
Line,Actual,Budget,Actual restated|Fuel,1,2,3|Crew,4,5,7 >> --current 'Actual restated' --base Budget the second
Route,Sales,Sales LY,Cost,Cost LY|N,500,450,300,310|S,700,690,400,380 >> --current Sales --base 'Sales LY'
Line,Amount,Amount EUR|Fuel,1,2|Crew,4,5 >> Amount and Amount EUR could each be the amount
Fuel,5|Crew,7|Quay,3 >> 'Fuel, 5' is a row of data, and no headings
2026-01,North,5.20|2026-02,North,7.10 >> '2026-01, North, 5.20' is a row of data, and no headings
Line,Jan 2026,Feb 2026,Jan-26|Fuel,1,2,3|Crew,4,5,7 >> 'Jan 2026' and 'Jan-26' are of the same period
Line,2025,Jan 2026,Feb 2026|Fuel,1200,100,110|Crew,900,80,70 >> '2025' is one figure, and Jan–Feb 2025 holds
Line,Q1 2025,Q2 2025,Jan 2026,Feb 2026,Mar 2026,Apr 2026|Fuel,3,3,1,1,1,1 >> --for 2026-01/2026-03
Period,Net|2025-Q1,300|2026-01,90|2026-02,95|2026-03,99 >> '2025-Q1' is one figure, and no point along time is as long
Year,Period,Net|2025,12,5|2025,13,7|2026,1,6 >> period 13 beside a year's 12 months (1 row, 7 in all)
Month,Scenario,Net|2026-01,ACT2025,5|2026-01,ACT2026,6|2026-01,BUD2026,7 >> there are ACT2025, ACT2026, BUD2026
Month,Scenario,Net|2026-01,1,5|2026-01,2,6|2026-02,1,7|2026-02,2,8 >> Name the current one, such as --of 1
WBS,Task,Budget,Actual|1,Quay,90,96|1.1,Wall,20,21|1.2,Steps,70,74 >> 'Quay' is 96 in Actual, but Wall + Steps come
Task,Budget,Actual|1 Quay,9,9|1.1 Wall,3,4|1.2 Step,6,5|2 Slip,7,8|2.1 Rail,3,3|2.2 Winch,4,4 >> row 5 '2 Slip' is 8 in
Task,Budget,Actual|Quay,9,9|  Wall,3,4|  Step,6,5|Slip,7,8|  Rail,3,3|  Winch,4,4 >> Rail, Winch are set in below 'Slip'
Pos,2026,2025|Quay,100,95|Foot,70,64|Cars,30,31|Slip,80,79|Rail,35,33|Winch,45,46|Rest,20,16 >> 'Rest' is Quay − Slip
Month,Path,Net|2026-01,Quay,12|2026-01,Quay:Foot,7|2026-01,Quay:Cars,5|2026-02,Quay,11|2026-02,Quay:Foot,11 >> Path Quay
Store,Name,Actual,Budget|1000,Ops,12,11|1010,Deck,7,6|1020,Eng,5,5|2000,Sea,2,1|3000,Fin,1,1 >> sum of Deck and Eng
Cost centre,Actual,Budget|Ops (1000),12,11|Deck (1010),7,6|Eng (1020),5,5|Sea (2000),2,1 >> 'Cost centre!=Ops (1000)'
Period,Net|11,5|12,7|13,6 >> period 13 beside a year's 12 months (1 row, 6 in all) >> --year 2026
Date,Net|2025-01-01,1200|2026-01-01,90|2026-02-01,95|2026-03-01,99 >> Jan–Mar 2025 has figures on the first day of each
Month,L,Net|2026-1,A,1013|2026-1,B,2027|2026-1,Total,3040|2026-2,A,5|2026-2,B,6|2026-2,Total,23 >> row 7 'Total' is 23
Period,Net|202500,5|202501,7|202601,6 >> --where 'Period!=202500' leaves them out
Month,Index|2026-01,100|2026-02,101 >> is a rate by its heading >> --per-day calendar
Month,Balance|2026-01,91|2026-02,93 >> is a balance by its heading >> --per-day calendar
Month,Balance|2026-01,91|2026-02,93 >> Balance is a balance by its heading >> --amount Balance/1000
Month,Index|2026-01,100|2026-02,101 >> Index is a rate by its heading >> --amount 'Index * 2'
Month,Measure,Value,Trips|2026-01,Sold,500,10|2026-01,Revenue,9000,10 >> something else >> --amount Value --per Trips
Month,Unit,Net,Trips|2026-01,EUR,500,10|2026-01,kg,90,10 >> holds several units >> --amount Net --per Trips
Entity,2025,2026|Ferries,480,501|Harbour,210,200|Group,684,695 >> has the name of a total >> --per-day calendar
Month,Balance|2026-01,91|2026-02,93 >> --every month shows each >> --by Month
Line,Jul 2026,Aug 2026|Opening cash,100,145|In,90,70|Out,-45,-62|Closing cash,145,153 >> is a balance >> --every month
Line,Jul 2026,Aug 2026|Opening cash,100,145|In,90,70|Out,-45,-62|Closing cash,145,153 >> is a balance >> --by Line
Line,2025,2026|Joiners,50,60|Other,2,3|Leavers,30,40 >> Line says 'Joiners' and 'Leavers' >> --every year
Line,2025|Sales,500|Other,20|Discounts,300 >> 'Sales' and 'Discounts' take from one >> --source-sign credit
Item,Value,Effect|Fares,12,Positive|Fuel,9,Negative >> 'Positive' and 'Negative' >> --statement none
Line,YTD Sep 2026,YTD Oct 2026|Fares,10,14|Freight,5,8 >> holds several months >> --headings-are When
Line,H1 2026,H1 2025,2025|Fuel,6,5,12|Crew,7,7,15 >> '2025' stands beside 'H1 2025' >> --headings-are When
I,Qty 2025,Price 2025,Qty 2026,Price 2026|A,10,5,11,6 >> Price 2025 is a column of amounts >> --by 'Price 2025'
Route,Budget,Actual|A,45.5%,44%|B,61%,66.25% >> holds percentages >> --total-as closing
route,CustomerID|North,1250|South,2012 >> holds figures but CustomerID >> --headings-are Client
Month,T,Net|2026-01,Prelim,9|2026-01,Final,8|2026-02,Final,6 >> T says Final, Prelim >> --per-day calendar
Month,T,Net|2026-01,Prelim,9|2026-01,Final,8|2026-02,Final,6 >> and no scenario >> --headings-are scenario
Month,Measure,Value|2026-01,Trips,5|2026-01,Revenue,9 >> each Measure is of something else >> --per-day calendar
Month,Measure,Value|2026-01,Trips,5|2026-01,Revenue,9 >> --where Measure=Trips. >> --total-as closing
Month,Route,Average fare|2026-01,N,20|2026-01,S,30 >> rates do not add up >> --total-as closing
Month,Route,Margin|2026-01,N,20%|2026-01,S,30% >> holds percentages >> --total-as closing
Month,Account,YTD|2026-01,Fare revenue,5|2026-01,Fuel cost,3 >> 'Fuel cost' a cost >> --total-as closing
Month,Side,Balance|2026-01,Assets,5|2026-01,Liabilities,3 >> 'Assets' and 'Liabilities' >> --total-as closing
Month,Account,Net|2026-01,Fare revenue,5|2026-01,Fuel cost,3 >> 'Fuel cost' a cost >> --totals keep
Headcount,Jan 2026,Feb 2026|Deck,12,13|Engine,8,9 >> is a balance by the heading Headcount >> --every month
Route,Jan 2026,Feb 2026|Load factor N,71,73|Load factor S,68,69 >> the names of its Route >> --every quarter
Entity,Actual,Budget|Group,640,632|Ferries,500,480|Harbour,140,152 >> 'Group' is the sum of all >> --versus none
Entity,2025,2026|Ferries,480,501|Harbour,210,200|Group,684,695 >> all others come to 701 >> --versus none
Entity,Actual,Budget|Ferries,500,480|Harbour,140,152 >> Actual is a column of amounts >> --by Actual
Line,2026,2025|Fares,512,488|Freight,201,218|Revenue,713,706|Fuel,261,252 >> 'Fuel' a cost >> --where Line!=None
Year,Part,Net|2025,Q1,5|2025,Q2,6|2025,Q3,7|2026,Q1,5|2026,Q2,7 >> 2026 has nothing in Q3 >> --versus prior
Line,2025,Jan 2026,Feb 2026|Fuel,1200,100,110|Crew,900,80,70 >> '2025' is one figure >> --totals keep
Line,Actual,Budget,Variance|North,500,450,50|South,300,330,-30 >> are sides of the same >> --headings-are Side
Line,Jan 2026,Feb 2026,Jan-26|Fuel,1,2,3|Crew,4,5,7 >> are of the same period >> --headings-are period
Line,Jan 2026,Feb 2026,Jan-26|Fuel,1,2,3|Crew,4,5,7 >> are of the same period >> --headings-are When
Month,Is leaf,Net|2026-01,Y,5|2026-01,N,6 >> Is leaf marks rows >> --where 'Is leaf!=None'
""".strip().splitlines()
# The same of what is told, and of the first line that comes back.
TOLD = """
Line,Actual,Budget|North,500,450|Max,301,330|West,120,101 >>  >> Total 921, 40 above budget
Line,Actual,Budget,Variance|North,500,450,50|South,300,330,-20|West,120,100,20 >> South -20 for -30 >> Total 920
Line,Actual,Budget|Fare revenue,500,450|Fuel,300,330 >> Fuel looks like a cost >> Total 800
Line,2025,2026|Fares,500,520|- cars,200,210|- foot,300,310|Freight,100,90 >> the sum of rows 3–4 >> Total 610, 10 above
Line,2025,2026|- Fares,500,520|- Freight,100,90 >>  >> Total 610, 10 above
Line,Q1 2025,Jan 2026,Feb 2026,Mar 2026|Fuel,300,110,110,110|Crew,90,30,30,30 >>  >> Total 420, 30 above
Route,Net|North,5|north,7 >> --where Route=North passes north by >> North 5 >> --where Route=North
Route,Net|North A,5|NORTH B,7|South,1 >> passes NORTH B by >> Net 5 >> --where Route~North*
Line,Actual,Budget|Fares,500,480|Fares,500,480|Fuel,300,290 >> Fares stands there twice with the same >> Total 1,300
Route,Actual,Budget|N,50,62|S,73,81|Rest,3,0|Per TB,126,143 >> 'Per TB' is the sum of rows 2–4 >> Total 126, 17
Month,Approved,Net|2026-01,Y,5|2026-01,N,6 >> rows whose Approved is N count as all others do >> Net 11
L,Actual N,Budget N,Actual S,Budget S|A,10,20,30,40|B,50,60,70,80 >> as scenarios >> N 60, 20 >> --where heading=N
Line,Actual EUR,Budget EUR,Actual %,Budget %|Fuel,10,20,33,44|Crew,40,50,67,56 >> not Actual % >> Total 50, 20
Line,Actual Q3,Budget Q3,Actual YTD,Budget YTD|Fuel,10,20,33,44|Crew,40,50,67,56 >> not Actual YTD >> Total, Q3, 50, 20
L,Actual,Budget|A,461,450|B,552,560|C,12100,12|D,73,70 >> sides of C are about a thousand times >> Total 13,186
L,Actual,Budget|A,500,500|B,300,300|C,90,90 >> the same amount in each of 3 points >> Total 890, level with budget
L,Budget,Act,Var|Deck,900,930,-30|Bar,600,590,10|Pay,300,310,-10 >> by the signs of Var these >> Total 1,830
Line,Jan 2026,Feb 2026,Adj|Fuel,100,110,7|Crew,20,30,5 >> Adj is of none of the periods and not counted: 12 >> Total 260
Line,Jan 2026,Feb 2026,P13,Total|Fuel,100,110,7,217|Crew,20,30,5,55 >> P13 is of none of the periods >> Total 260
Line,2026,2025 (restated)|Fares,500,480|Freight,200,190 >> compared against year-ago >> Total 700, 30 above
Product,Net|SKU100,5|SKU101,7|EUR,9 >> each row as Product >> Net 21
WBS,Task,2026,2025|1,Quay,9,9|1.1,Wall,3,4|1.2,Step,6,5|2,Slip,7,7|2.1,Rail,3,3|2.2,Winch,4,4 >> as Task >> Total 16
Level,Unit,2026,2025|1,Quay,79,75|2,Wall,50,45|2,Step,29,30|1,Slip,50,51|2,Rail,38,30|2,Bar,12,21 >> 'Slip' >> Total 129
Pos.,Line,2026,2025|1,Fares,500,480|2,Fuel,-260,-240|3,Crew,-130,-125|4,Result,110,115 >> the result is >> Result 110
Unit,2026,2025|N A,500,450|N B,290,300|N,790,750|S A,380,300|S B,120,200|S,500,500|Group,1290,1250 >>  >> Group 1,290
Line,2025,2026|Fares,500,520|Freight,100,90|Total,600,610|Memo: grant,50,0 >> is a memo line >> Total 610, 10 above
Line,2025,2026|Fares,500,520|Freight,100,90|Total,600,610|Grant,50,0 >> Grant is not in 'Total' >> Total 610, 40 below
Line,2025,2026|Fares,500,520|Freight,100,90|Reported,600,610|One-off,-50,-10|Underlying,550,600 >>  >> Underlying 600
Date,Paid in,Paid out|2026-01-05,700,|2026-02-05,,450 >>  >> Paid in - Paid out 250 >> --amount '"Paid in" - "Paid out"'
Route,Sales,Sales LY,Cost,Cost LY|N,5,4,3,2|S,7,6,8,4 >> compared against LY >> Sales 12, 2 above LY >> --amount Sales
Rep,Sales,Quota,Attainment|Ann,675,814,0.829|Bo,855,755,1.132 >>  >> Sales 1,530, 39 below quota
Net,Month|0,2026-01|1,2026-02|2,2026-03|3,2026-04|4,2026-05|5,2026-06 >>  >> Net 15
L,Actual,Budget|X,45,50|Deck,30,33|Eng,15,17|Y,20,24|Tax,12,15|Fee,8,9 >> X, Y come to others >> Total 130
L,1/2026,2/2026,3/2026,4/2026,5/2026,6/2026|A,5,5,-5,4,5,5|B,7,6,-7,6,8,7 >> 2026-03 has the other sign >> Total 46
L,1/2026,2/2026,3/2026,4/2026,5/2026,6/2026|A,9000,9,8000,9000,7000,6000|B,6,.006,7,6,6,5 >> thousandth >> Total 39
L,1/2026,2/2026,3/2026,4/2026|A,9,523,523,4|B,7,661,661,6|C,1,103,103,1 >> amounts of 2026-02 >> Total 2,602
Line,Prior month,Current month,MoM change|Fuel,310,330,20|Crew,500,490,-10 >>  >> Total 820, 10 above prior month
Line,This month,Last year|Fuel,5,60|Crew,7,80 >> not of spans of one length >> Total 12, 128 below last year
Line,Actual,LY,Bud|Fuel,310,330,300|Crew,500,490,500 >> compared against Bud >> Total 810, 10 above Bud
科目,実績,予算|運賃,500,480|燃料,300,290 >> compared against 予算 >> Total 800, 30 above 予算
Item,Budget,Q1 Actual|Fuel,400,97|Crew,900,216 >> not of spans of one length >> Total 313, 987 below
L,Actual,Budget|N,5,6|S,#N/A,7 >> 1 cell of Actual is #N/A, taken as absent >> Total 5, 8 below
Month,Account,Net|2026-01,4000,-9|2026-01,1200,9|2026-02,4000,-8|2026-02,1200,8 >> ledger of double entries >> Net 0
Route,Oct 2026,Budget 2026|N,5,60 >> of spans of one length >> Total 5 >> --current 'Oct 2026' --base 'Budget 2026'
Entity,2026,2025|Ferries,500,480|Harbour,200,210|Head,-60,-58|Group,640,632 >> row 5 'Group' is the sum >> Total 640
Department,2026,2025|Group,64,60|Retail,500,480|Wholesale,200,210 >>  >> Total 764, 14 above
Line,2026|Fuel costs,20|Crew costs,30|Harbour costs,50 >>  >> Total 100
Year,Qtr,Net|2025,Q1,5|2025,Q2,6|2025,Q3,7|2025,Q4,8|2026,Q1,5|2026,Q2,7 >> Year and Qtr as date >> Net 12, 1 above
FiscalYear,PostingPeriod,Net|2025,001,5|2025,002,6|2025,003,7|2026,001,5|2026,002,7 >> as date >> Net 12, 1 above
Line,Actual,Budget|Result North,-50,-80|Result South,20,-10|Result West,-10,15 >>  >> Total −40, 35 above
Month,Cabin,Net|2026-01,A,9|2026-01,B,8|2026-02,A,7|2026-02,B,6 >>  >> Net 30
Route,Net|North,–5|South,(3)|West,12 >>  >> Net 4
Date,A,Net|2025-01-31,x,-9|2025-02-28,x,-8|2025-03-31,y,-7|2025-12-31,x,24 >> as where entries close a year >> Net 0
Day,n,Net|2026-01-01,a,5|2026-01-02,b,6|2026-01-03,c,7 >>  >> Net 18
Team,Headcount|Sales,10|Ops,6|IT,4 >>  >> Headcount 20
Month,Net LTM cost|2026-01,5 >>  >> Net LTM cost 5
Month,Price,Qty|2026-01,2,3|2026-02,3,4 >>  >> Sales 18, Jan–Feb 2026 >> --amount Price*Qty --measure Sales
Month,Margin|2026-01,20%|2026-02,30% >>  >> Margin 30% >> --total-as closing
Month,Side,Balance|2026-01,Assets,5|2026-01,Liabilities,3 >>  >> Balance 8 >> --total-as closing --statement none
Route,Actual YTD,Budget YTD|N,5,6 >>  >> Total 5, 1 below >> --current 'Actual YTD' --base 'Budget YTD'
""".strip().splitlines()


@pytest.mark.parametrize("case", STOPPED)
def test_what_does_not_belong_together_stops_the_call(desk: Desk, case: str) -> None:
    table, said, *words = case.split(" >> ")
    (desk.folder / "t.csv").write_text(table.replace("|", "\n"))
    assert said in desk.refused("table", "t.csv", *shlex.split(" ".join(words)))


def test_a_cost_that_is_forgotten_among_the_deductions_is_not_added(desk: Desk) -> None:
    desk.write("l.csv", [("Fare revenue", 500), ("Fuel cost", 200), ("Crew cost", 100)], ("Account", "Net"))
    for some in ("Fuel cost", "Crew cost"):
        other = {"Fuel cost": "Crew cost", "Crew cost": "Fuel cost"}[some]
        told = desk.refused("draw", "waterfall", "l.csv", "--deductions", some)
        assert f"'{other}' a cost" in told and "--deductions 'Fuel cost,Crew cost'" in told
    closing = desk.figures("draw", "waterfall", "l.csv", "--deductions", "Fuel cost,Crew cost")["points"][-1]
    assert closing["current"] == 200


def test_a_name_to_show_hides_neither_a_total_nor_a_cost(desk: Desk) -> None:
    desk.write(
        "names.csv", [("Group", "Ostrey"), ("Fuel cost", "Bunkers"), ("Fare revenue", "Tickets")], ("Name", "Shown")
    )
    named = ("--name-map", "names.csv")
    entities = [("Group", 640, 632), ("Ferries", 500, 480), ("Harbour", 200, 210), ("Elims", -60, -58)]
    desk.write("e.csv", entities, ("Entity", "Actual", "Budget"))
    assert "--where 'Entity!=Group'" in desk.refused("table", "e.csv", *named)
    total = by_label(desk.figures("table", "e.csv", *named, "--where", "Entity!=Group"))["Total"]
    assert (total["current"], total["base"]) == (640, 632)  # 500 + 200 − 60, and 480 + 210 − 58
    desk.write("l.csv", [("Fare revenue", 500), ("Fuel cost", 200)], ("Account", "Net"))
    assert "'Fuel cost' a cost" in desk.refused("table", "l.csv", *named)
    assert "--deductions Bunkers names" in desk.refused("draw", "waterfall", "l.csv", *named)
    bars = desk.figures("draw", "waterfall", "l.csv", *named, "--deductions", "Bunkers")["points"]
    assert bars[-1]["end"] == 300
    # Where the source has codes, the names that are shown say it.
    desk.write("c.csv", [(4000, 500), (5000, 200)], ("Account", "Net"))
    desk.write("codes.csv", [(4000, "Fare revenue"), (5000, "Fuel cost")], ("Code", "Name"))
    assert "'Fuel cost' a cost" in desk.refused("table", "c.csv", "--by", "Account", "--name-map", "codes.csv")


@pytest.mark.parametrize("case", TOLD)
def test_what_is_doubtful_is_told_and_added_up(desk: Desk, case: str) -> None:
    table, said, headline, *words = case.split(" >> ")
    (desk.folder / "t.csv").write_text(table.replace("|", "\n"))
    found = desk.run("table", "t.csv", *shlex.split(" ".join(words)))
    assert said in found.err and found.out.startswith(headline)
    assert said or ("the two sides differ" not in found.err and "of one length" not in found.err)


@pytest.mark.parametrize(
    "rows",
    [
        'N,500,480|"S,700,710|W,300,290',  # to the end of the file
        'N,500,480|"S,700,710|W,300,290|"E",5,5',
        'N,500,480|S,"7,710|W,300,290|E,3",5',  # which closes where a cell ends
    ],
)
def test_a_quote_that_nobody_closed_swallows_no_rows(desk: Desk, rows: str) -> None:
    (desk.folder / "t.csv").write_text(f"Route,Actual,Budget|{rows}|F,6,6\n".replace("|", "\n"))
    assert "row 3: a quote is opened there, and rows 3 to " in desk.refused("table", "t.csv")
    (desk.folder / "t.csv").write_text('Route,Actual,Budget\n"North, 12\nQuay",500,480\nS 12" pipe,7,8\n')
    assert "Total 507, 19 above budget" in desk.run("table", "t.csv").out


def test_a_total_among_documents_is_not_added_to_them(desk: Desk) -> None:
    rows = [(f"2026-{1 + at % 12:02}-05", f"Invoice {at}", 1) for at in range(12_000)]
    for name in ("Total", "Total March", "December total", "Total costs", "TotalEnergies card"):
        desk.write("t.csv", [*rows, ("2026-12-31", name, 12_000)], ("Date", "Text", "Net"))
        is_card = "card" in name
        assert is_card or f"Text {name} would be counted with others" in desk.refused("table", "t.csv")
        assert not is_card or "Net 24,000" in desk.run("table", "t.csv").out
    desk.write("t.csv", [*rows, ("2026-12-31", "Total", 12_000)], ("Date", "Text", "Net"))
    assert "Net 12,000" in desk.run("table", "t.csv", "--where", "Text!=Total").out


def test_a_plan_of_another_year_is_said_to_be_none(desk: Desk) -> None:
    desk.write("a.csv", [(month, 100) for month in MONTHS], ("Month", "Net"))
    desk.write("b.csv", [(month.replace("2026", "2025"), 90) for month in MONTHS], ("Month", "Net"))
    assert (
        "against nothing: budget has no rows in the window" in desk.run("table", "actual=a.csv", "budget=b.csv").err
    )


def test_a_file_that_is_signed_the_other_way_round_is_told(desk: Desk) -> None:
    for place, sign in enumerate((1, -1)):
        rows = [(f"2026-0{place + 1}-05", name, sign * amount) for name, amount in (("N", 5), ("S", 6), ("W", 7))]
        desk.write(f"m{place}.csv", rows, ("Date", "Route", "Net"))
    told = "all amounts of m1.csv are below zero, those of the other files above"
    assert told in desk.run("table", "glob:m*.csv", "--by", "Route").err
    assert told not in desk.run("table", "glob:m*.csv", "--by", "Route", "--total-as", "count").err


def test_a_side_without_dates_against_one_that_has_them_stops_or_is_told(desk: Desk) -> None:
    desk.write("a.csv", [(month, "Fuel", 100) for month in MONTHS], ("Month", "Line", "Net"))
    desk.write("b.csv", [("Fuel", 1200)], ("Line", "Net"))
    by = ("--by", "Line")
    assert "budget has no dates, and what it is set" in desk.refused("table", "actual=a.csv", "budget=b.csv", *by)
    told = "actual has no dates, and all of budget stands against it, from 2026-01-01 to 2026-10-31"
    assert told in desk.run("table", "actual=b.csv", "budget=a.csv", *by).err


def test_sides_that_sign_costs_in_opposite_ways_are_told_whatever_is_compared(desk: Desk) -> None:
    lines = (
        ("Fares revenue", 900, 880, 1),
        ("Freight", 500, 510, 1),
        ("Fuel cost", 300, 290, -1),
        ("Crew", 400, 390, -1),
    )
    rows = [
        (month, "North", account, scenario, amount)
        for month in MONTHS
        for account, actual, budget, sign in lines
        for scenario, amount in (("actual", sign * actual), ("budget", budget))
    ]
    desk.write("t.csv", rows, ("Month", "Route", "Account", "Scenario", "Net"))
    for asked in ((), ("--by", "Route"), ("--by", "Account")):
        said = desk.refused("table", "t.csv", *asked)
        assert "Fuel cost" in said and "in opposite ways" in said and "--source-sign actual=effect" in said
    # To turn all of one side turns its income too; and of which lines are costs nothing is said.
    two = ("table", "actual=t.csv", "budget=t.csv", "--by", "Account", "--source-sign")
    for sign in ("actual=negative", "actual=effect", "budget=positive"):
        assert "as --source-sign has it" in desk.refused(*two, sign)
    assert "as --source-sign has it" in desk.refused(*two, "actual=effect", "--source-sign", "budget=positive")
    found = by_label(desk.figures(*two, "actual=positive", "--source-sign", "budget=positive"))  # refunds, say
    assert (found["Fuel cost"]["current"], found["Fuel cost"]["base"]) == (-300 * len(MONTHS), 290 * len(MONTHS))


@pytest.mark.parametrize(
    ("budget", "said"),
    [
        (lambda _: 1200, "about twelve times what it is set against"),
        (lambda month: 300 * (month % 3 == 0), "in every third month alone"),
        (lambda month: "" if month % 3 != 1 else 300, "in every third month alone"),
        (lambda _: 100, ""),
        (lambda month: 1100 + month, ""),
    ],
)
def test_a_plan_whose_months_hold_a_year_or_a_quarter_is_told(
    desk: Desk, budget: Callable[[int], object], said: str
) -> None:
    for routes in (("North", "South"), ("North",)):
        rows = [
            (month, route, 95 + at + routes.index(route), budget(at))
            for at, month in enumerate(MONTHS, 1)
            for route in routes
        ]
        desk.write("t.csv", rows, ("Month", "Route", "Actual", "Budget"))
        found = desk.run("table", "t.csv").err
        assert said in found and ("as if" in found) is bool(said)


@pytest.mark.parametrize(
    ("held", "window", "said"),
    [
        # Quarters in January, April and July to August; of nine months of each side nothing is told.
        (
            (1, 4, 7, 10),
            "2026-01/2026-08",
            "4 months of the year alone, as if each held 3: 9 months of it stand against 8",
        ),
        ((1, 4, 7, 10), "2026-01/2026-09", ""),
        ((1,), "2026-01/2026-09", "one month of the year alone, as if it held 12: 12 months of it stand against 9"),
        ((12,), "2026-09", "one month of the year alone, as if it held 12: 0 months of it stand against 1"),
        ((2, 3, 9), "2026-01/2026-08", ""),
    ],
)
def test_a_line_that_is_planned_by_quarter_or_by_year_is_told(
    desk: Desk, held: Sequence[int], window: str, said: str
) -> None:
    rows = [(f"2026-{month:02}", line, "Actual", 100 + month) for month in range(1, 10) for line in ("Crew", "Cover")]
    rows += [(f"2026-{month:02}", "Crew", "Budget", 100 + 2 * month) for month in range(1, 13)]
    rows += [(f"2026-{month:02}", "Cover", "Budget", 1200 // len(held)) for month in held]
    desk.write("t.csv", rows, ("Month", "Line", "Version", "Net"))
    found = [
        one for one in desk.figures("table", "t.csv", "--by", "Line", "--for", window)["cautions"] if "held" in one
    ]
    assert found == ([f"Budget has Cover in {said}"] if said else [])


def test_documents_that_are_there_twice_are_told(desk: Desk) -> None:
    rows = [(f"{month}-{day:02}", "North", 10 + day, f"D{month}{day}") for month in MONTHS for day in (3, 9, 21)]
    desk.write("t.csv", [*rows, *rows[:2]], ("Day", "Route", "Net", "Doc"))
    assert "2 rows are the same as another, Doc and all" in desk.run("table", "t.csv").err
    desk.write("t.csv", [one[:3] for one in [*rows, *rows[:2]]], ("Day", "Route", "Net"))  # two tickets of one price
    assert "the same as another" not in desk.run("table", "t.csv").err


def test_a_cash_flow_by_month_does_not_add_up_its_opening_balances(desk: Desk) -> None:
    rows = [("Opening cash", 1000, 1070, 1060), ("Receipts", 500, 480, 510), ("Payments", -430, -490, -400)]
    closing = ("Closing cash", 1070, 1060, 1170)  # each month opens with what the one before it closes
    desk.write("t.csv", [*rows, closing], ("Line", "Jan 2026", "Feb 2026", "Mar 2026"))
    assert "Opening cash is a balance by name, whose dates do not add up" in desk.refused("table", "t.csv")
    assert "Total 1,170, Mar 2026" in desk.run("table", "t.csv", "--for", "2026-03").out
    both = ("--where", "Line!=Opening cash", "--where", "Line!=Closing cash")
    assert "Closing cash" in desk.refused("table", "t.csv", *both[:2])
    assert (
        desk.figures("table", "t.csv", *both)["points"][-1]["current"] == 1490 - 1320
    )  # 500 + 480 + 510, less costs


def test_a_date_in_three_columns_has_its_day(desk: Desk) -> None:
    for months in ((1, 2, 5), ("Jan", "Feb", "May")):
        rows = [(2026, month, day, 100 + day) for month in months for day in (3, 17)]
        desk.write("t.csv", rows, ("Year", "Month", "Day", "Net"))
        with sqlite3.connect(desk.folder / "t.db") as books:
            books.execute("DROP TABLE IF EXISTS t")
            books.execute("CREATE TABLE t (Year INTEGER, Month TEXT, Day INTEGER, Net INTEGER)")
            books.executemany("INSERT INTO t VALUES (?, ?, ?, ?)", rows)
        for source in (("t.csv",), ("sqlite:///t.db", "--table", "t")):
            found = desk.run("table", *source)
            assert "took Year and Month and Day as date, Net as amount\n" in found.err
            assert "Net 660, 1 Jan–17 May 2026" in found.out  # three times 103 + 117
    desk.write("t.csv", [(2026, 1, "Mon", 5), (2026, 2, "Tue", 6)], ("Year", "Month", "Day", "Net"))
    assert "Net 11, Jan–Feb 2026" in desk.run("table", "t.csv").out


@pytest.mark.parametrize(
    "ends",
    [("FY25 EBITDA", "FY26 EBITDA"), ("Cash at 1 Jan", "Cash at 31 Dec"), ("Headcount at start", "Headcount at end")],
)
def test_a_list_that_starts_from_and_comes_to_what_is_alike_stands_on_both(desk: Desk, ends: tuple[str, str]) -> None:
    desk.write("t.csv", [(ends[0], 1000), ("In", 80), ("Out", -120), (ends[1], 960)], ("Step", "Amount"))
    drawn = desk.figures("draw", "waterfall", "t.csv", "-o", "w.png")
    assert [one["kind"] for one in drawn["points"]] == ["opening", "step", "step", "closing"]
    assert drawn["headline"] == f"{ends[1]} 960, 40 below {ends[0]} (1,000), the largest step being Out (−120)"
    assert desk.figures("table", "t.csv")["points"][-1]["current"] == 960  # not 1,920


def test_a_survey_goes_on_and_names_commands_that_run(desk: Desk) -> None:
    desk.write("h.csv", [("Crew", 7), ("Quay", 3)], ("Fuel", 5))
    said = desk.run("survey", "h.csv").out
    assert "'Fuel, 5' is a row of data, and no headings" in said and "Worth running next" not in said
    quarters = [(f"2025-Q{quarter}", 30) for quarter in (1, 2, 3, 4)]
    desk.write("q.csv", [*quarters, *((month, 11) for month in MONTHS[:9])], ("Period", "Net"))
    assert "marvex table q.csv --every quarter" in desk.run("survey", "q.csv").out
    total = desk.figures("table", "q.csv", "--every", "quarter")["points"][-1]
    assert (total["current"], total["base"]) == (99, 90)  # nine months of 11 against three quarters of 30


def test_what_is_reached_so_far_stands_in_a_list_of_steps(desk: Desk) -> None:
    steps = [("Gross pay", 100), ("Tax", -20), ("Net pay", 80), ("Rent", -30), ("Left over", 50)]
    desk.write("l.csv", steps, ("Step", "Amount"))
    kinds = [one["kind"] for one in desk.figures("draw", "waterfall", "l.csv")["points"]]
    assert kinds == ["step", "step", "subtotal", "step", "closing"]
    assert "'Gross pay', 'Net pay' are one amount" in desk.refused("table", "l.csv")


def test_a_commentary_says_what_other_came_to_and_keeps_an_order(desk: Desk) -> None:
    rows = [("North", 200, 100), ("South", 90, 120), ("West", 52, 80), ("Isle", 70, 60), ("Quay", 31, 30)]
    desk.write("t.csv", rows, ("Route", "Actual", "Budget"))
    told = desk.run("commentary", "t.csv", "--keep", "top:2").out
    assert "Other (3) was 17 below budget (−10.0%), at 153 against 170." in told  # 52 + 70 + 31 against 80 + 60 + 30
    in_order = desk.run("commentary", "t.csv", "--order", "name").out
    assert in_order.index("Isle was") < in_order.index("North was") < in_order.index("South was")
    largest = desk.run("commentary", "t.csv").out
    assert largest.index("North was") < largest.index("South was") < largest.index("Isle was")


def test_a_sheet_with_spans_to_date_in_its_headings_and_titles_above_them(desk: Desk) -> None:
    rows = [
        ("Fares", 1, 603, 587, 6121, 5812),
        ("Freight", 2, 251, 244, 2498, 2433),
        ("Revenue", "", 854, 831, 8619, 8245),
        ("Fuel", 3, -183, -171, -1822, -1713),
        ("Crew", 4, -297, -306, -2911, -3027),
        ("Costs", "", -480, -477, -4733, -4740),
        ("Result", "", 374, 354, 3886, 3505),
    ]
    titles = [("P and L", *[""] * 5), ("", *[""] * 5)]
    for spans, said in (
        (("YTD 2026", "YTD 2025"), ""),
        (("FY2026", "FY2025"), "--amount 'Oct 2026,Oct 2025' takes the parts"),
    ):
        desk.write("t.csv", [*titles, ("", "Note", "Oct 2026", "Oct 2025", *spans), *rows], ("Ostrey", *[""] * 5))
        found = desk.run("table", "t.csv", *(() if not said else ("--amount", "Oct 2026,Oct 2025")))
        assert "the result is Result" in found.err and "Result 374, 20 above last year" in found.out
        assert said in (desk.refused("table", "t.csv") if said else "")


def test_headings_in_capitals_and_a_month_beside_a_year_to_date(desk: Desk) -> None:
    rows = [("North", 503, 487), ("South", 251, 244)]
    for pair in (("JAN26", "JAN25"), ("ACT 2026", "BUD 2026"), ("2026 €m", "2025 €m")):
        for titles in ([], [("Results in EUR k", "", ""), ("", "", "")]):
            desk.write("t.csv", [*titles, ("Route", *pair), *rows], ("Ostrey Sound Ferries", "", ""))
            assert "Total 754" in desk.run("table", "t.csv").out and desk.run("table", "t.csv").status == 0
    desk.write("t.csv", rows, ("Route", "Month", "YTD"))
    assert "Month and YTD could each be the amount" in desk.refused("table", "t.csv")


@pytest.mark.parametrize("sides", [("Actual", "Budget"), ("ACT", "BUD"), ("Act", "Bud")])
@pytest.mark.parametrize("years", [("YTD 2026", "YTD 2025"), ("31/10/2026", "31/10/2025"), ("YE 2026", "YE 2025")])
def test_sides_over_years_in_two_rows_of_headings(desk: Desk, years: tuple[str, str], sides: tuple[str, str]) -> None:
    rows = [("North", 503, 487, 480, 470), ("South", 251, 244, 250, 240)]
    for upper, lower, order in ((years, sides, (0, 1, 2, 3)), (sides, years, (0, 2, 1, 3))):
        head = ("Route", *lower, *lower)
        data = [(name, *(figures[at] for at in order)) for name, *figures in rows]
        desk.write("t.csv", [head, *data], ("", upper[0], upper[0], upper[1], upper[1]))
        assert "Total 754, 23 above" in desk.run("table", "t.csv").out  # 503 + 251 against 487 + 244


def test_keeping_one_version_of_a_budget_keeps_the_actuals(desk: Desk) -> None:
    sides = (("actual", "", 100), ("budget", "v1", 80), ("budget", "v2", 90))
    rows = [(month, route, *side) for month in MONTHS for route in ("North", "South") for side in sides]
    desk.write("t.csv", rows, ("Month", "Route", "Scenario", "Version", "Net"))
    assert "Keep one with --where 'Version!=v1'" in desk.refused("table", "t.csv")
    kept = desk.figures("table", "t.csv", "--where", "Version!=v1")["points"][-1]
    assert (kept["current"], kept["base"]) == (2000, 1800)  # twenty times 100 and 90
