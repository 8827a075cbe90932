"""What a choice changes electrically: sizes to buy, the ribbon to the lamp, what is done."""
