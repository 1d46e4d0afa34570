/** Signatures of what is done. Asking is done as often as it takes; what can be missing has to be a deed. */
export const deeds = /^(press|type|keys|perform actions|clear|dialog|window|frame|navigate|open|script)\b/;
