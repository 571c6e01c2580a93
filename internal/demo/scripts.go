package demo

// scripts are conversations of Kelpwick Ferries: the page on which each began,
// then its lines.
var scripts = [][]string{
	{
		"Fares", "v We would like to bring a group over to Brae with our own minibus. Is this the right place?",
		"t It is. How many are you, and how long is the minibus?",
		"v Twelve adults, 6.8 m. Back on Sunday evening.",
		"t There is room both ways on MV Curlew, €412.80 with the minibus. Shall I hold the places?",
		"v Can you hold them until tomorrow?",
		"t Until 18:00 tomorrow. You get the quote by email in a minute.",
		"v Lovely, thank you",
	},
	{
		"Travelling with animals", "v Can the dog sit with us in the lounge?",
		"t On MV Sandpiper, yes: the aft lounge takes dogs on a lead. On MV Curlew there is a heated kennel on deck 3.",
		"v She is 40 kg, does that matter?",
		"t Not at all. Please bring a blanket, the floor is steel.",
		"v Will do",
	},
	{
		"Freight", "v Is there room for a 12-tonne lorry on tomorrow's first sailing to Northholm?",
		"t The 06:10 has 14 m of lorry deck left. What length are you?",
		"v 9.5 m with the tail lift",
		"t Then you fit. Please be at gate 4 by 05:25, with the load papers at hand.",
	},
	{
		"Pay for your trip", "v My card was charged twice",
		"t I am sorry. Can you give me the booking number? It starts with KF.",
		"v KF-20417",
		"t I see one payment and one reservation that your bank lets go of within three days. Nothing is lost, but it looks like two.",
		"v ah ok. so I don't have to do anything?",
		"t Nothing at all. If it is still there on Friday, write to us here and we sort it out with the bank.",
		"v thanks!",
	},
	{
		"Disruptions", "v Is the 14:10 sailing still going with this wind?",
		"t It is, and on time so far. The captain decides again at 13:30.",
		"v And if not?",
		"t Then you travel at 18:40 with the same ticket, or get your money back, as you like.",
	},
	{
		"My booking", "v Hello? Can I add a second car to the booking",
	},
	{
		"Getting aboard", "v Hello, my father uses a wheelchair. Is there a lift from the car deck on Sandpiper?",
		"t Yes, midships, and it takes a powered chair. Which sailing are you on?",
		"v Sunday 09:30 from Sandry. This is his chair, will it go through the doors? It is 74 cm wide.",
		"t It will, the narrowest door is 82 cm wide.",
		"v That is a relief. Do I need to ring ahead?",
		"t No need, I have put you down for assistance. Be at gate 2 by 08:50 and the crew will park you beside the lift.",
	},
	{
		"Timetable", "v Is there a bus at the other end?",
		"t At Northholm line 7 waits for the ferry until 22:15. At Little Fenna there is none after six, but a taxi on call.",
		"v Good to know, thanks",
	},
	{
		"Help", "v I left a blue jacket on the 17:20 yesterday, near the coffee bar",
		"t Let me ask the crew of MV Curlew. One moment.",
		"v of course",
		"t It is here, with a train ticket in the pocket. You can fetch it at the Kelpwick desk from 7 to 21.",
		"v You are wonderful",
	},
	{
		"Fares", "v Is the group fare per person or for the whole minibus?",
		"t Per person, from ten people on. The minibus pays by its length, €46.00 up to 7 m.",
		"v ok and children?",
		"t Under four they travel free, under fifteen at half the fare.",
	},
	{
		"Timetable", "v what time is the last boat back from Little Fenna on a Saturday",
	},
}
